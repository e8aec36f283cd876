import type { Context } from '../../context/context.ts'

/**
 * A full comparison: the next look lists everything, by revisions where the service gives them, and so heals
 * what notifications and tokens have missed. What is the same is not fetched again.
 */
export async function compareInFull(ctx: Context, connectionId: string): Promise<void> {
  await ctx.db.commit(async sql => {
    await sql.run(
      'UPDATE collections SET sync_token = NULL WHERE connection_id = :connectionId AND import_cursor IS NULL',
      { connectionId },
    )
    await sql.run('UPDATE connections SET compared_at = :now WHERE id = :connectionId', {
      connectionId,
      now: Date.now(),
    })
  })
}
