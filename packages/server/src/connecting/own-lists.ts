import { randomUUID } from 'node:crypto'
import { BOUNDARY_VERSION, everything } from '@loom/core'
import { DYES, putCollection } from './connect-service.ts'
import { seal } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { intakeOf, ownConnector } from '../own/connector.ts'
import { workspaceIds, lockWorkspace } from '../data/repositories/workspaces.ts'
import { ownConnection, addOwnConnection } from '../data/repositories/connections.ts'
import { putOwnPerson } from '../data/repositories/people.ts'
import { json } from '../data/json.ts'

/** Every workspace has its own lists from the start, and an intake for each member. */
export async function ensureOwn(ctx: Context): Promise<void> {
  const workspaces = await workspaceIds(ctx.db)
  for (const { id: workspaceId } of workspaces) await ensureOwnOf(ctx, workspaceId)
}

export async function ensureOwnOf(ctx: Context, workspaceId: string): Promise<string> {
  const account = await ownConnector(ctx.db, workspaceId, ctx.now).discover()
  return ctx.db.commit(async sql => {
    // Two servers that start together make one.
    await lockWorkspace(sql, { workspaceId })
    const known = await ownConnection(sql, { workspaceId })
    const id = known?.id ?? randomUUID()
    if (!known)
      await addOwnConnection(sql, {
        id,
        workspaceId,
        name: account.name,
        credentials: seal({}, ctx.secret),
        scope: json({ ...everything, future: true }),
        readBy: BOUNDARY_VERSION,
      })
    const intakes = new Map(account.people.map(p => [intakeOf(p.id), p.id]))
    for (const [i, found] of account.collections.entries()) {
      const ownerId = intakes.get(found.remoteId)
      await putCollection(sql, { workspaceId, connectionId: id }, found, {
        takesPart: true,
        dye: DYES[(i + 3) % DYES.length] ?? '#44566C',
        meaning: null,
        // An intake is its person's alone.
        ...(ownerId !== undefined && { ownerId }),
        colleagues: ownerId === undefined ? 'change' : 'nothing',
      })
    }
    // Members are who they are in our own lists.
    for (const p of account.people)
      await putOwnPerson(sql, { connection: id, id: p.id, workspaceId, name: p.name, email: p.email })
    return id
  })
}

/** The connection that our own lists belong to. */
export async function ownConnectionOf(ctx: Context, workspaceId: string): Promise<string> {
  const known = await ownConnection(ctx.db, { workspaceId })
  return known?.id ?? ensureOwnOf(ctx, workspaceId)
}
