import { randomUUID } from 'node:crypto'
import type { ConnectionInput } from '@loom/connectors'
import { defaultSettings } from '@loom/core'
import { hashPassword } from '../access/sessions.ts'
import { keepConnection, subscribe, tryService } from '../http/connections.ts'
import type { Context } from '../sync/context.ts'

/** The demo: Quillmere Garden, connected to the stand-ins, with one rule on. All of it is made up. */

export const DEMO_PASSWORD = 'night-flowering'

const MEMBERS = [
  { name: 'Ines Varga', email: 'ines@quillmere.example', zone: 'Europe/Dublin' },
  { name: 'Tobias Lund', email: 'tobias@quillmere.example', zone: 'Europe/Dublin' },
  { name: 'Anouk Thapa', email: 'anouk@quillmere.example', zone: 'Asia/Kathmandu' },
]

/** Does nothing when there is a workspace already. */
export async function seedDemo(ctx: Context, standins: string): Promise<void> {
  if (await ctx.db.one('SELECT id FROM workspaces LIMIT 1')) return
  const garden: ConnectionInput = {
    kind: 'caldav',
    address: standins,
    credentials: { user: 'ines', password: 'moonflower' },
  }
  const bench: ConnectionInput = {
    kind: 'bench-list',
    address: `${standins}/bench`,
    credentials: { key: 'bench-key-ines' },
  }
  const accounts = [
    { input: garden, name: 'Garden Calendars', account: await tryService(ctx, garden) },
    { input: bench, name: 'Bench List', account: await tryService(ctx, bench) },
  ]
  const workspaceId = randomUUID()
  const passwordHash = await hashPassword(DEMO_PASSWORD)
  const connections = await ctx.db.transaction(async sql => {
    await sql.insert('INSERT INTO workspaces (id, name, zone) VALUES (:id, :name, :zone)', {
      id: workspaceId,
      name: 'Quillmere Garden',
      zone: 'Europe/Dublin',
    })
    for (const m of MEMBERS)
      await sql.insert(
        `INSERT INTO members (id, workspace_id, name, email, password_hash, zone)
         VALUES (:id, :workspaceId, :name, :email, :passwordHash, :zone)`,
        { ...m, id: randomUUID(), workspaceId, passwordHash },
      )
    const ids: string[] = []
    for (const { input, name, account } of accounts) {
      const takesPart = account.collections.map(c => c.remoteId)
      ids.push(await keepConnection(ctx, sql, workspaceId, { input, name, takesPart }, account))
    }
    const named = (name: string) =>
      sql.one<{ id: string }>(
        'SELECT id FROM collections WHERE workspace_id = :workspaceId AND name = :name',
        {
          workspaceId,
          name,
        },
      )
    const [a, b] = [await named('Festival'), await named('Festival work')]
    if (a && b)
      await sql.insert(
        `INSERT INTO rules (id, workspace_id, a_collection, b_collection, settings, state, version, enabled_at, notices)
         VALUES (:id, :workspaceId, :a, :b, :settings, 'on', 1, :now, '[]')`,
        {
          id: randomUUID(),
          workspaceId,
          a: a.id,
          b: b.id,
          settings: JSON.stringify(defaultSettings),
          now: ctx.now(),
        },
      )
    return ids
  })
  for (const id of connections) await subscribe(ctx, id)
}
