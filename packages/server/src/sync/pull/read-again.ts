import { placeOf, type Context, scopeOf } from '../../context/context.ts'
import { BOUNDARY_VERSION, type Mirror, readCalendarObject, trimmed } from '@loom/core'
import { mirrorOf, putMirrors, remoteItemOf, setPresence } from '../../data/repositories/mirrors.ts'
import type { Lease } from '../../data/leases.ts'
import { keptOriginals, type KeptOriginal } from '../../data/repositories/originals.ts'
import { dropProblemsOf } from '../../data/repositories/problems.ts'
import { forgetSyncTokens } from '../../data/repositories/collections.ts'
import { setReadBy, type ConnectionRow } from '../../data/repositories/connections.ts'

/**
 * Items taken in by an earlier version of the boundary are read again from their kept originals. Those no longer
 * understood are hidden and listed; those understood differently are stored so. What was not understood before is
 * fetched by the full listing that follows.
 */

export async function readAgain(ctx: Context, row: ConnectionRow, lease: Lease): Promise<void> {
  if (row.read_by === BOUNDARY_VERSION) return
  for (let after = ''; ;) {
    const kept = await keptOriginals(ctx.db, { id: row.id, after })
    const last = kept.at(-1)
    if (!last) break
    after = last.id
    await readPart(ctx, row, lease, kept)
  }
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    await dropProblemsOf(sql, { id: row.id })
    await forgetSyncTokens(sql, { connectionId: row.id })
    await setReadBy(sql, {
      id: row.id,
      version: BOUNDARY_VERSION,
    })
    sql.tell(row.workspace_id, { topics: ['connections'], connection: row.id })
  })
}

async function readPart(
  ctx: Context,
  row: ConnectionRow,
  lease: Lease,
  kept: readonly KeptOriginal[],
): Promise<void> {
  const scope = scopeOf(row)
  const gone: string[] = []
  const changed: { mirror: Mirror; original: string }[] = []
  for (const k of kept) {
    // What a service tells in terms of its own comes whole with the listing that follows.
    if (!/^BEGIN:VCALENDAR/i.test(k.original)) continue
    const read = readCalendarObject(k.original)
    if (read.kind === 'not-understood') gone.push(k.id)
    else if (JSON.stringify(trimmed(scope, read.value)) !== JSON.stringify(remoteItemOf(k)))
      // Its revision goes, so that the listing brings it through everything that what comes in passes.
      changed.push({ mirror: { ...mirrorOf(k), item: remoteItemOf(k), revision: '' }, original: k.original })
  }
  if (gone.length + changed.length === 0) return
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    await setPresence(sql, gone, 'missing')
    await putMirrors(sql, placeOf(row), changed)
    sql.tell(row.workspace_id, { topics: ['cloth', 'connections'] }, [
      ...gone,
      ...changed.map(c => c.mirror.id),
    ])
  })
}
