import { randomUUID } from 'node:crypto'
import { addDays, dayAt } from '@loom/core'
import {
  countedOnce,
  type EntryAbout,
  type EntrySource,
  type EntryTime,
  minutesOf,
  type TimeEntry,
  wholeMinutes,
} from '@loom/core/ledger'
import type { Context } from '../context/context.ts'
import type { Sql } from '../data/database.ts'
import { json, parsed } from '../data/json.ts'
import {
  addEntry,
  changeEntry,
  deleteEntry,
  entriesByRef,
  entriesOf,
  entryByRef,
  entryOf,
  type EntryRow,
  firstEntryOn,
  keepVersion,
  lockLedger,
  setClock,
  setCounted,
  sumDay,
  sumTask,
} from '../data/repositories/time-entries.ts'

/** Writing to a ledger. Which of a day's minutes count is worked out again in the commit that changes it. */

export interface Keeper {
  id: string
  workspaceId: string
  zone: string
}

export interface Noted {
  time: EntryTime
  /** Where its time is minutes only: of which day, in the person's zone. */
  day: string
  source: EntrySource
  assumed: boolean
  about: EntryAbout
  /** What it comes from, where that can come again. */
  ref: string | null
}

/** Days whose entries can meet those of a day: one is never longer than a day. */
const AROUND = 1
const MOST_AT_ONCE = 5_000

export const shownEntry = (row: EntryRow): TimeEntry & { version: number; counted: number } => ({
  id: row.id,
  version: row.version,
  day: row.day,
  time: timeOf(row),
  counted: Number(row.counted),
  source: row.source,
  assumed: row.assumed === 1,
  about: {
    key: row.item_key,
    uid: row.uid,
    title: row.title,
    list: row.list,
    category: row.category,
    kind: row.kind,
    estimate: row.estimate,
    private: row.private === 1,
  },
})

const timeOf = (row: Pick<EntryRow, 'from_ms' | 'to_ms' | 'minutes'>): EntryTime =>
  row.from_ms === null || row.to_ms === null
    ? { minutes: Number(row.minutes) }
    : { fromMs: Number(row.from_ms), toMs: Number(row.to_ms) }

const columnsOf = (time: EntryTime, day: string, zone: string) => {
  const spans = 'fromMs' in time
  return {
    day: spans ? dayAt(time.fromMs, zone) : day,
    from_ms: spans ? time.fromMs : null,
    to_ms: spans ? time.toMs : null,
    minutes: minutesOf(time),
  }
}

/** Null where what it refers to is noted already, or its person removed it. What was undone comes again. */
export async function note(
  sql: Sql,
  keeper: Keeper,
  now: number,
  { time, day, source, assumed, about, ref }: Noted,
): Promise<string | null> {
  await lockLedger(sql, { memberId: keeper.id, workspaceId: keeper.workspaceId })
  const known = ref === null ? null : await entryByRef(sql, { ref, memberId: keeper.id })
  if (known && (known.withdrawn === 0 || (known.withdrawn === 2 && assumed))) return null
  const at = columnsOf(time, day, keeper.zone)
  if (known) await change(sql, keeper, now, known, { ...at, source, assumed: Number(assumed), withdrawn: 0 })
  else {
    const first = about.uid === '' ? null : await firstEntryOn(sql, { memberId: keeper.id, uid: about.uid })
    const { key, private: isPrivate, ...said } = about
    const row = { ...said, item_key: key, private: Number(isPrivate), ref, source, assumed: Number(assumed) }
    // The estimate of a task is that of the moment at which work on it began.
    const estimate = first ? first.estimate : about.estimate
    const entry = { id: randomUUID(), memberId: keeper.id, workspaceId: keeper.workspaceId, now }
    await addEntry(sql, { ...entry, ...row, ...at, estimate })
    await countAnew(sql, keeper, [at.day], about.uid)
    return entry.id
  }
  return known.id
}

type Change = Partial<
  Pick<EntryRow, 'day' | 'from_ms' | 'to_ms' | 'minutes' | 'source' | 'assumed' | 'category' | 'withdrawn'>
>

async function change(sql: Sql, keeper: Keeper, at: number, row: EntryRow, to: Change): Promise<void> {
  await keepVersion(sql, {
    id: row.id,
    workspaceId: keeper.workspaceId,
    version: row.version,
    at,
    body: json(row),
  })
  const { id, day, from_ms, to_ms, minutes, source, assumed, category, withdrawn } = { ...row, ...to }
  await changeEntry(sql, { id, day, from_ms, to_ms, minutes, source, assumed, category, withdrawn })
  await countAnew(sql, keeper, [row.day, day], row.uid)
}

/** What a person says of one of their entries. */
export interface Correction {
  time?: EntryTime
  day?: string
  category?: string
  /** It was so. */
  assumed?: false
  withdrawn?: boolean
}

/** @param version the one that was seen */
export async function correct(
  ctx: Context,
  keeper: Keeper,
  { id, version }: { id: string; version: number },
  { time, day, category, assumed, withdrawn }: Correction,
): Promise<'done' | 'gone' | 'changed'> {
  return ctx.db.commit(async sql => {
    await lockLedger(sql, { memberId: keeper.id, workspaceId: keeper.workspaceId })
    const row = await entryOf(sql, { id, memberId: keeper.id })
    if (!row) return 'gone'
    if (row.version !== version) return 'changed'
    await change(sql, keeper, ctx.now(), row, {
      // What somebody corrects they have said themselves.
      ...(time && { ...columnsOf(time, day ?? row.day, keeper.zone), source: 'hand' as const, assumed: 0 }),
      ...(category !== undefined && { category }),
      ...(assumed === false && { assumed: 0 }),
      ...(withdrawn !== undefined && { withdrawn: withdrawn ? 2 : 0 }),
    })
    return 'done'
  })
}

/** They were so. Returns how many had not been said yet. */
export async function confirmEntries(ctx: Context, keeper: Keeper, ids: readonly string[]): Promise<number> {
  return ctx.db.commit(async sql => {
    await lockLedger(sql, { memberId: keeper.id, workspaceId: keeper.workspaceId })
    let confirmed = 0
    for (const id of ids) {
      const row = await entryOf(sql, { id, memberId: keeper.id })
      if (!row || row.assumed === 0 || row.withdrawn !== 0) continue
      await change(sql, keeper, ctx.now(), row, { assumed: 0 })
      confirmed++
    }
    return confirmed
  })
}

/** For good, with all its versions. */
export async function removeEntry(ctx: Context, keeper: Keeper, id: string): Promise<boolean> {
  return ctx.db.commit(async sql => {
    await lockLedger(sql, { memberId: keeper.id, workspaceId: keeper.workspaceId })
    const row = await entryOf(sql, { id, memberId: keeper.id })
    if (!row) return false
    await deleteEntry(sql, { id })
    await countAnew(sql, keeper, [row.day], row.uid)
    return true
  })
}

/** What came from something that is undone. */
export async function withdrawRefs(
  sql: Sql,
  keeper: Keeper,
  now: number,
  begins: string,
  only: (row: EntryRow) => boolean = () => true,
): Promise<void> {
  await lockLedger(sql, { memberId: keeper.id, workspaceId: keeper.workspaceId })
  for (const row of await entriesByRef(sql, { begins, memberId: keeper.id }))
    if (only(row)) await change(sql, keeper, now, row, { withdrawn: 1 })
}

/** @param days on which entries have changed; `uid` of the task that they are of */
async function countAnew(sql: Sql, keeper: Keeper, days: readonly string[], uid: string): Promise<void> {
  const memberId = keeper.id
  const tasks = new Set([uid])
  const touched = new Set(days)
  for (const day of new Set(days)) {
    // What meets an entry of the day, and what in turn meets that, so that each is judged beside all that it meets.
    const span = { from: addDays(day, -2 * AROUND), to: addDays(day, 2 * AROUND + 1) }
    const rows = await entriesOf(sql, { memberId, ...span, limit: MOST_AT_ONCE })
    const counted = countedOnce(
      rows.map(r => ({ id: r.id, source: r.source, assumed: r.assumed === 1, time: timeOf(r) })),
    )
    const near = { from: addDays(day, -AROUND), to: addDays(day, AROUND) }
    for (const r of rows) {
      const minutes = counted.get(r.id) ?? 0
      if (r.day < near.from || r.day > near.to || minutes === Number(r.counted)) continue
      await setCounted(sql, { id: r.id, counted: minutes })
      touched.add(r.day)
      tasks.add(r.uid)
    }
  }
  for (const day of touched) await sumDay(sql, { memberId, day })
  for (const task of tasks) if (task !== '') await sumTask(sql, { memberId, uid: task })
}

/** Longer than this, a clock was perhaps forgotten: what it says is to be confirmed. */
const LIKELY_MS = 6 * 3_600_000

/** What a clock wrote down. */
export interface Clocked {
  id: string
  minutes: number
}

/** A clock that runs already stops, and what it measured is written down. */
export async function startClock(ctx: Context, keeper: Keeper, about: EntryAbout): Promise<Clocked | null> {
  return ctx.db.commit(async sql => {
    const entry = await stopped(sql, keeper, ctx.now())
    await setClock(sql, { memberId: keeper.id, from: ctx.now(), about: json(about) })
    return entry
  })
}

/** Null where none ran, or for less than half a minute. */
export const stopClock = (ctx: Context, keeper: Keeper): Promise<Clocked | null> =>
  ctx.db.commit(sql => stopped(sql, keeper, ctx.now()))

async function stopped(sql: Sql, keeper: Keeper, now: number): Promise<Clocked | null> {
  const { clock_from_ms, clock_about } = await lockLedger(sql, {
    memberId: keeper.id,
    workspaceId: keeper.workspaceId,
  })
  if (clock_from_ms === null || clock_about === null) return null
  await setClock(sql, { memberId: keeper.id, from: null, about: null })
  const from = Number(clock_from_ms)
  const time = wholeMinutes(from, now)
  if (!time) return null
  const assumed = now - from > LIKELY_MS
  const day = dayAt(from, keeper.zone)
  const about = parsed(clock_about)
  const id = await note(sql, keeper, now, { time, day, source: 'clock', assumed, about, ref: null })
  return id === null ? null : { id, minutes: minutesOf(time) }
}
