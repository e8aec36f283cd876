import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'

/** Sync does not run, after the server ended several times in a row: since when, and at what it ended last. */
export interface HaltedView {
  since: number
  /** A sentence. */
  reason: string
}

const ENDED = 'The server ended several times within a minute, so sync is stopped.'

/** Null while sync runs. What belongs to another workspace is not named. */
export async function haltedView(
  ctx: Context,
  engine: Engine,
  workspaceId: string,
): Promise<HaltedView | null> {
  const halted = engine.isHalted
  if (!halted) return null
  const name = await nameOf(ctx, halted.why, workspaceId)
  return { since: halted.since, reason: name === null ? ENDED : `${ENDED} It ended at ${name}.` }
}

async function nameOf(ctx: Context, why: string, workspaceId: string): Promise<string | null> {
  const [kind, id = ''] = why.split(':')
  const at = { id, workspaceId }
  const named = (sql: string) => ctx.db.one<{ name: string }>(sql, at)
  const found =
    kind === 'connection'
      ? await named('SELECT name FROM connections WHERE id = :id AND workspace_id = :workspaceId')
      : kind === 'rule'
        ? await named(
            `SELECT IFNULL(name, 'a rule') AS name FROM rules WHERE id = :id AND workspace_id = :workspaceId`,
          )
        : await named(
            `SELECT CONCAT(n.name, ', “', LEFT(JSON_VALUE(m.item, '$.summary'), 100), '”') AS name
             FROM mirrors m JOIN connections n ON n.id = m.connection_id
             WHERE m.id = :id AND m.workspace_id = :workspaceId`,
          )
  return found?.name ?? null
}
