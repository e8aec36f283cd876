import { type IntentBody, setMirrorOfIntent, type IntentRow } from '../../data/repositories/intents.ts'
import type { RemoteItem } from '@loom/connectors'
import { confirmWrite, type Item, type Returned, type Rule } from '@loom/core'
import { idFor } from '../../access/secrets.ts'
import type { Sql } from '../../data/database.ts'
import { mirrorRows, remoteItemOf, setPresence } from '../../data/repositories/mirrors.ts'
import { putOwnLayer } from '../../data/repositories/own-layer.ts'
import { withNeighbours } from '../log/neighbours.ts'
import { addIntent, endIntent, type Job, opOf, rebaseWaiting, undoesOf } from '../log/intents.ts'
import { writeJournal } from '../log/journal.ts'
import { applyShown, shownOf } from './write-result.ts'
import type { Sending } from './sending.ts'
import { moveEnds, moveOn } from '../move/moves.ts'
import { entryOf } from './not-written.ts'
import { tieOf } from '../rules/ties.ts'
import { capabilitiesIn, ruleAt } from '../rules/rules.ts'
import type { ConnectionRow } from '../../data/repositories/connections.ts'
import { originalOf } from '../../data/repositories/originals.ts'
import {
  bindTies,
  firstSidesOf,
  undoTie,
  confirmTieRow,
  type TieRow,
  tieById,
} from '../../data/repositories/ties.ts'
import { markUndone } from '../../data/repositories/journal.ts'
import { ruleById } from '../../data/repositories/rules.ts'
import { json } from '../../data/json.ts'

/** A write that was confirmed: what its service returned is held from now on, and the tie agrees on it. */

/** What the service has confirmed. */
interface Confirmed {
  /** Null where it is gone. */
  item: RemoteItem | null
  /** Its revision is that of this very write. */
  ours: boolean
  tookMs: number
}

export async function confirm(
  { ctx, conn, lease }: Pick<Sending, 'ctx' | 'conn' | 'lease'>,
  job: Job,
  { item, ours, tookMs }: Confirmed,
): Promise<void> {
  const { row, body, mirror } = job
  await ctx.db.commit(async sql => {
    await lease.check(sql)
    const known = mirror ?? (item ? ((await mirrorRows(sql, conn.id, [item.remoteId]))[0] ?? null) : null)
    const id = known?.id ?? idFor(`mirror ${conn.id} ${item?.remoteId ?? row.id}`)
    const kept = known ? await originalOf(sql, { id }) : null
    const object = job.series ?? known
    const partners = [id]
    if (item)
      partners.push(
        ...(await applyShown(
          ctx,
          sql,
          {
            conn,
            before: object,
            id: object?.id ?? id,
            collectionId: object?.collection_id ?? row.collection_id,
          },
          item,
        )),
      )
    else await setPresence(sql, [id], 'gone')
    const shown = item && shownOf({ ...job, mirror: known }, item)
    if (body.by === 'rule')
      partners.push(
        ...(await confirmTie(
          sql,
          { row, body, now: ctx.now() },
          {
            item: shown,
            before: known && remoteItemOf(known),
            mirrorId: id,
            revisionIsOurs: ours,
          },
        )),
      )
    if (body.by === 'person' && body.then) await makeThen(sql, row, body.then)
    if (body.by === 'maker') partners.push(...(await settleMade(sql, row, body, id)))
    if (body.by === 'maker' && item) partners.push(...(await moveOn(sql, row, id, item.remoteId)))
    if (body.by === 'remover') await moveEnds(sql, id)
    if (item && known && !job.series)
      await rebaseWaiting(sql, id, { ...known, item: remoteItemOf(known) }, item)
    await endIntent(sql, row, 'confirmed')
    if (item) await takeMarkOut(sql, conn, row, body, { id, item: item.item })
    // The person who made it can undo it.
    if (body.by === 'maker') await setMirrorOfIntent(sql, { id, of: row.id })
    const undoes = undoesOf(body)
    if (undoes !== null) await undone(sql, undoes, row.tie_id, body, ctx.now())
    await writeJournal(sql, {
      ...entryOf(ctx, row, body, known),
      mirrorId: id,
      outcome: 'done',
      tookMs,
      waitedMs: Date.now() - row.made_at,
      removal: row.removal === 1,
      original: kept?.original ?? null,
    })
    sql.tell(row.workspace_id, { topics: ['cloth', 'journal', 'rules'], exact: true }, partners)
  })
}

/** Our mark in people's notes stands there only until it is known what became of the creation. */
async function takeMarkOut(
  sql: Sql,
  conn: ConnectionRow,
  row: IntentRow,
  body: IntentBody,
  { id, item }: { id: string; item: Item },
): Promise<void> {
  if (opOf(body) !== 'create' || item.kind !== 'task' || !capabilitiesIn(conn)?.marksNotes) return
  const { description } = item
  await addIntent(sql, {
    workspaceId: row.workspace_id,
    connectionId: row.connection_id,
    collectionId: row.collection_id,
    mirrorId: id,
    ruleId: null,
    memberId: null,
    tieId: null,
    uid: null,
    body: { by: 'person', patch: { description }, before: { description }, fields: [] },
    cause: 'own-mark',
    title: row.title,
    state: 'open',
  })
}

async function makeThen(
  sql: Sql,
  row: IntentRow,
  { item, original, binds = [] }: NonNullable<Extract<IntentBody, { by: 'person' }>['then']>,
): Promise<void> {
  await addIntent(sql, {
    workspaceId: row.workspace_id,
    connectionId: row.connection_id,
    collectionId: row.collection_id,
    mirrorId: null,
    ruleId: null,
    memberId: row.member_id,
    tieId: null,
    uid: item.uid,
    body: { by: 'maker', item, original, binds },
    cause: row.cause,
    title: row.title,
    state: 'open',
  })
}

/** An item made by hand gets its own layer and is bound to its tasks, which are planned again. */
async function settleMade(
  sql: Sql,
  row: IntentRow,
  body: Extract<IntentBody, { by: 'maker' }>,
  id: string,
): Promise<string[]> {
  if (body.own) await putOwnLayer(sql, row.workspace_id, id, body.own)
  if (!body.binds?.length) return []
  await bindTies(sql, {
    id,
    binds: body.binds,
  })
  const ties = await firstSidesOf(sql, {
    binds: body.binds,
  })
  return ties.map(t => t.a_mirror)
}

/** Marks the journal entry as undone. If a rule made the item and it was removed, its tie ends. */
async function undone(
  sql: Sql,
  entry: number,
  tieId: string | null,
  body: IntentBody,
  now: number,
): Promise<void> {
  await markUndone(sql, { entry, now })
  if (body.by === 'remover' && tieId) await undoTie(sql, { tieId })
}

/** Returns the mirror on the other side, which is planned again with this one. */
async function confirmTie(
  sql: Sql,
  { row, body, now }: { row: IntentRow; body: Extract<IntentBody, { by: 'rule' }>; now: number },
  returned: Returned,
): Promise<string[]> {
  const under = await plannedUnder(sql, row, true)
  if (!under) return []
  const tie = confirmWrite(under.rule, tieOf(under.tie), body.write, returned)
  await confirmTieRow(sql, {
    id: tie.id,
    a: tie.a,
    b: tie.b,
    base: json(tie.base),
    memory: json(tie.memory),
    released: tie.released,
    now,
  })
  const held = [tie.a, tie.b].filter(id => id !== null)
  return tie.released ? withNeighbours(sql, held) : held
}

/** The tie of a rule's write, and the rule in the words of the version it was planned under. */
export async function plannedUnder(
  sql: Sql,
  row: IntentRow,
  lock = false,
): Promise<{ tie: TieRow; rule: Rule } | null> {
  const tie = await tieById(sql, { id: row.tie_id }, lock)
  const rule = await ruleById(sql, { id: row.rule_id })
  return tie && rule ? { tie, rule: await ruleAt(sql, rule, tie.rule_version) } : null
}
