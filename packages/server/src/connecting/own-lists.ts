import { randomUUID } from 'node:crypto'
import { BOUNDARY_VERSION, everything } from '@loom/core'
import { DYES, putCollection } from './keep.ts'
import { seal } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { OWN, ownConnector } from '../own/connector.ts'

/** Every workspace has its own lists from the start, and an intake for each member. */
export async function ensureOwn(ctx: Context): Promise<void> {
  const workspaces = await ctx.db.rows<{ id: string }>('SELECT id FROM workspaces')
  for (const { id: workspaceId } of workspaces) await ensureOwnOf(ctx, workspaceId)
}

export async function ensureOwnOf(ctx: Context, workspaceId: string): Promise<string> {
  const account = await ownConnector(ctx.db, workspaceId, ctx.now).discover()
  return ctx.db.commit(async sql => {
    // Two servers that start together make one.
    await sql.one('SELECT id FROM workspaces WHERE id = :workspaceId FOR UPDATE', { workspaceId })
    const known = await sql.one<{ id: string }>(
      `SELECT id FROM connections WHERE workspace_id = :workspaceId AND kind = '${OWN}'`,
      { workspaceId },
    )
    const id = known?.id ?? randomUUID()
    if (!known)
      await sql.insert(
        `INSERT INTO connections (id, workspace_id, kind, name, address, credentials, account_name, scope, read_by)
         VALUES (:id, :workspaceId, '${OWN}', :name, '', :credentials, :name, :scope, :readBy)`,
        {
          id,
          workspaceId,
          name: account.name,
          credentials: seal({}, ctx.secret),
          scope: JSON.stringify({ ...everything, future: true }),
          readBy: BOUNDARY_VERSION,
        },
      )
    for (const [i, found] of account.collections.entries())
      await putCollection(sql, { workspaceId, connectionId: id }, found, {
        takesPart: true,
        dye: DYES[(i + 3) % DYES.length] ?? '#44566C',
        meaning: null,
      })
    // Members are who they are in our own lists.
    for (const p of account.people)
      await sql.insert(
        `INSERT INTO people (connection_id, remote_id, workspace_id, name, email, is_me, member_id)
         VALUES (:connection, :id, :workspaceId, :name, :email, 0, :id)
         ON DUPLICATE KEY UPDATE name = VALUES(name), email = VALUES(email), member_id = VALUES(member_id)`,
        { connection: id, id: p.id, workspaceId, name: p.name, email: p.email },
      )
    return id
  })
}

/** The connection that our own lists belong to. */
export async function ownConnectionOf(ctx: Context, workspaceId: string): Promise<string> {
  const known = await ctx.db.one<{ id: string }>(
    `SELECT id FROM connections WHERE workspace_id = :workspaceId AND kind = '${OWN}'`,
    { workspaceId },
  )
  return known?.id ?? ensureOwnOf(ctx, workspaceId)
}
