import { collectionsOnCloth, type SourceRow } from '../data/repositories/collection-views.ts'
import { type Category, type ClothItem, dayAt, slim, type Viewer } from '@loom/core'
import { LRUCache } from 'lru-cache'
import type { Database, Sql } from '../data/database.ts'
import { type Sharing, type Sight, unlowered } from '../access/sight.ts'
import { clothOf, type Days, readCloth, type Reading } from './cloth.ts'
import { circumstancesOf } from './sources.ts'
import { peopleOf, type PersonRow } from './people.ts'
import type { Since } from './versions.ts'
import { GivenCloth } from './given-cloth.ts'

import { categoriesOf } from '../data/repositories/categories.ts'
import { leftOutIn } from '../data/repositories/left-out.ts'

/**
 * The Cloth stays the same until something changes, and every change has a number. One reading serves everybody
 * who asks at that number; they differ only by zone and by what each leaves out.
 */

/** A limit, in case a change was not numbered. */
const KEPT_MS = 30_000

/** Most items are the same objects as when they were last sent. */
const texts = new WeakMap<ClothItem, string>()
function textOf(item: ClothItem): string {
  const known = texts.get(item)
  if (known !== undefined) return known
  const text = JSON.stringify(slim(item))
  texts.set(item, text)
  return text
}

/** A read under way or done. `turn` rises with each read that is started. */
interface Kept {
  /** It is as of this change, or of a later one. */
  seq: number
  turn: number
  at: number
  /** What happens from now on may not be in it. */
  hasBegun: boolean
  value: Promise<{ reading: Reading; around: KnownAround }>
}
let turns = 0

/** What those were given who look at a span, and as of which reading. */
interface Given {
  cloth: GivenCloth
  turn: number
}
interface Span {
  kept: Kept
  /** By what is seen of it, and by who leaves something out of it. */
  given: LRUCache<string, Given>
}
interface KnownAround {
  seq: number
  around: Around
  leftOut: ReadonlyMap<string, ReadonlySet<string>>
  /** Whether what is in some calendar has a part in it. */
  byItems: boolean
}
interface OfDatabase {
  spans: LRUCache<string, Span>
  around: LRUCache<string, KnownAround>
}
/** The oldest entry is dropped first. */
const MOST_SPANS = 64
/** So many ways of seeing one span are kept. */
const MOST_WAYS = 200
const databases = new WeakMap<Database, OfDatabase>()
function keptOf(db: Database): OfDatabase {
  const known = databases.get(db)
  if (known) return known
  const max = MOST_SPANS
  const fresh: OfDatabase = { spans: new LRUCache({ max }), around: new LRUCache({ max }) }
  databases.set(db, fresh)
  return fresh
}

export interface Around {
  sources: SourceRow[]
  people: PersonRow[]
  categories: Category[]
}

/** Who looks, and as what. */
export interface Looking {
  workspaceId: string
  /** The last change when they asked. */
  seq: number
  /** Whose own plan it is; null for nobody's. */
  memberId: string | null
  sightIn: (sharing: Sharing) => Sight
}

/**
 * The parts of the answer as JSON texts, for the last change at the time of the request or a later one. Only items
 * that changed since the version the client has are included.
 */
export async function sharedCloth(
  db: Database,
  { workspaceId, seq, memberId, sightIn }: Looking,
  days: Pick<Days, 'from' | 'days'>,
  viewer: Viewer,
  { have, check = false }: { have?: string; check?: boolean } = {},
): Promise<{ items: Since; beyond: number; around: Around; sight: Sight }> {
  const of = { workspaceId, ...days }
  const all = await spanAt(db, of, seq, viewer, null, check)
  const sight = sightIn((await all.kept.value).reading.sharing)
  // Where not all is read, the limits count what is seen.
  const isCut = (await all.kept.value).reading.bounded && !sight.isWhole
  const { kept, given } = isCut ? await spanAt(db, of, seq, viewer, sight.glimpsed('busy'), check) : all
  const { reading, around } = await kept.value
  const leftOut = around.leftOut.get(memberId ?? '')
  // What of an item depends on who looks and not on their sight, and on whose days are when.
  const zonesAre = sight.isWhole ? '' : around.around.people.map(p => `${p.id} ${p.zone}`).join()
  const whose = [sight.epoch, leftOut ? [...leftOut].join() : '', zonesAre].join(' ')
  const to = given.get(whose) ?? { cloth: new GivenCloth(), turn: 0 }
  given.set(whose, to)
  // An earlier reading that took longer does not take the place of a later one.
  if (kept.turn > to.turn) {
    const lineOf = (i: ClothItem): string =>
      textOf(leftOut?.has(i.key.split('@')[0] ?? '') ? { ...i, leftOut: true } : i)
    const zones = new Map(around.around.people.map(p => [p.id, p.zone]))
    const zoneOf = (id: string | null): string => zones.get(id ?? '') ?? viewer.zone
    to.cloth.follow(reading, sight, of, viewer, { lineOf, zoneOf })
    to.turn = kept.turn
  }
  return {
    items: to.cloth.versions.since(have),
    beyond: reading.beyond,
    around: around.around,
    sight,
  }
}

/** What is known of a span as of a change or a later one, from which each is given what they see. */
async function spanAt(
  db: Database,
  of: Days,
  seq: number,
  viewer: Viewer,
  only: readonly string[] | null,
  check: boolean,
): Promise<Span> {
  const { workspaceId } = of
  const { spans } = keptOf(db)
  const what = [
    workspaceId,
    of.from,
    of.days,
    viewer.zone,
    dayAt(viewer.now, viewer.zone),
    only?.join() ?? '',
  ]
  const key = what.join(' ')
  let span = spans.get(key)
  const isFresh = span !== undefined && Date.now() - span.kept.at < KEPT_MS
  // One that waits for another to end will read what is there by then: it serves whoever comes meanwhile.
  const willServe = span !== undefined && (span.kept.seq >= seq || !span.kept.hasBegun)
  if (!span || !isFresh || !willServe) {
    const before = span?.kept.value
    const kept: Kept = {
      seq,
      turn: ++turns,
      // What was read as a whole is so old, however often the reading went on from it.
      at: span && isFresh ? span.kept.at : Date.now(),
      hasBegun: false,
      value: readOn(db, of, viewer, before, {
        only,
        check,
        anew: !isFresh,
        onBegin: () => (kept.hasBegun = true),
      }),
    }
    span = { kept, given: span?.given ?? new LRUCache({ max: MOST_WAYS }) }
    spans.set(key, span)
    kept.value.then(
      now => (kept.seq = now.reading.seq),
      () => spans.delete(key),
    )
  }
  await span.kept.value
  return span
}

/** Sources and people as somebody sees them: not those lists of which they may see no title. */
export function aroundText(around: Around, sight: Sight): string {
  const texts = aroundTexts.get(around) ?? new Map<string, string>()
  aroundTexts.set(around, texts)
  const known = texts.get(sight.text)
  if (known !== undefined) return known
  const text = JSON.stringify({ ...around, sources: sourcesSeen(around, sight) })
  texts.set(sight.text, text)
  return text
}

export const sourcesSeen = ({ sources }: Around, sight: Sight): SourceRow[] =>
  sources.flatMap(s => {
    if (!sight.glimpses(s.id, 'title')) return []
    return sight.sees(s.id, 'change') ? [s] : [{ ...s, writable: 0 }]
  })

const aroundTexts = new WeakMap<Around, Map<string, string>>()

/** Reads what has changed since an earlier reading, or all of it. */
async function readOn(
  db: Database,
  of: Days,
  viewer: Viewer,
  before: Kept['value'] | undefined,
  {
    only,
    check,
    anew,
    onBegin,
  }: { only: readonly string[] | null; check: boolean; anew: boolean; onBegin: () => void },
): ReturnType<typeof readNow> {
  // After a turn at least: whoever asks is noted by then.
  const known = await (before ?? Promise.resolve(undefined)).catch(() => undefined)
  onBegin()
  return db.snapshot(async sql => {
    const now = await readNow(db, sql, of, viewer, known?.reading ?? null, { only, anew })
    if (check && now.reading.since !== null && !now.reading.bounded)
      await checkAgainstWhole(sql, of, viewer, now)
    return now
  })
}

/** For trials: that what went on from earlier readings is what is read as a whole. */
async function checkAgainstWhole(
  sql: Sql,
  of: Days,
  viewer: Viewer,
  { reading, around }: Awaited<Kept['value']>,
): Promise<void> {
  trial.wentOn++
  const asText = (items: readonly ClothItem[]): string[] => items.map(i => JSON.stringify(i)).sort()
  const drawnOf = (r: Reading): ClothItem[] => clothOf(r, unlowered, of, viewer, () => viewer.zone)
  const items = asText(drawnOf(await readCloth(sql, of, viewer, null)))
  const kept = asText(drawnOf(reading))
  const [one, other] = [around.around, (await aroundOf(sql, of.workspaceId)).around].map(a =>
    JSON.stringify(a),
  )
  const missed = items.filter(i => !kept.includes(i))
  const stale = kept.filter(i => !items.includes(i))
  if (one === other && missed.length === 0 && stale.length === 0) return
  trial.mismatches.push(`missed: ${missed.join()}; kept: ${stale.join()}; around: ${one} is ${other}`)
}
/** What trials have found: how often a reading went on from an earlier one, and what was kept and not so. */
export const trial = { wentOn: 0, mismatches: [] as string[] }

async function readNow(
  db: Database,
  sql: Sql,
  of: Days,
  viewer: Viewer,
  before: Reading | null,
  how: { only: readonly string[] | null; anew: boolean },
) {
  const { workspaceId } = of
  const reading = await readCloth(sql, of, viewer, before, how)
  const arounds = keptOf(db).around
  let around = arounds.get(workspaceId)
  // What says that a reading could go on from an earlier one says it of the sources and people, too.
  const known = around && reading.since !== null && around.seq >= reading.since && around.seq <= reading.seq
  if (!around || !known || (around.byItems && reading.rows !== before?.rows)) {
    around = { ...(await aroundOf(sql, workspaceId)), seq: reading.seq }
  } else around = { ...around, seq: reading.seq }
  if ((arounds.get(workspaceId)?.seq ?? -1) <= around.seq) arounds.set(workspaceId, around)
  return { reading, around }
}

/** The sources and people of a workspace, and what each of these leaves out of their own plan. */
async function aroundOf(sql: Sql, workspaceId: string) {
  const [rows, under, out, { people, byItems }, categories] = await Promise.all([
    collectionsOnCloth(sql, { workspaceId }),
    circumstancesOf(sql, workspaceId),
    leftOutIn(sql, { workspaceId }),
    peopleOf(sql, workspaceId),
    categoriesOf(sql, { workspaceId }),
  ])
  const around: Around = {
    sources: rows.map(r => ({ ...r, unsupported: under.unsupported(r.id) })),
    people,
    categories,
  }
  const leftOut = new Map<string, Set<string>>()
  for (const { member_id: of, mirror_id: id } of out) leftOut.set(of, (leftOut.get(of) ?? new Set()).add(id))
  return { around, leftOut, byItems }
}
