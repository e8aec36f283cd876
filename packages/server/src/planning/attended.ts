import { addDays, type ClothItem, dayAt, daysBetween, understoodOr, invitedTo } from '@loom/core'
import { type EntryAbout, wholeMinutes } from '@loom/core/ledger'
import { unlowered } from '../access/sight.ts'
import { chunks } from '../data/chunks.ts'
import type { Sql } from '../data/database.ts'
import { namesOfCollections } from '../data/repositories/collection-views.ts'
import { originalsOfMirrors } from '../data/repositories/originals.ts'
import { type Keeper, note } from '../ledger/ledger.ts'
import { aboutSource } from '../view/about.ts'
import { clothOf, DEFAULT_MINUTES, readCloth } from '../view/cloth.ts'

/**
 * What took place on days that are over, and nobody wrote down: meetings that were not declined, and the planned time of
 * tasks that are done. It is assumed, until its person says so.
 */

/** After a longer absence what lies further back is not looked at. */
const MOST_DAYS = 70
/** What lasts longer is being away, not a meeting. */
const MOST_MINUTES = 12 * 60

type Somebody = Keeper & { email: string }

/** Something that took place, or was planned and is done. */
interface Took {
  people: readonly string[]
  about: EntryAbout
  time: { fromMs: number; toMs: number }
  /** In the zone that was asked for. */
  on: string
  isDone: boolean
  id: string
  /** What its guests have answered, by mail address. */
  answers: ReadonlyMap<string, string> | undefined
}

/**
 * Of the whole workspace.
 * @param since the first day that was not looked at yet; `today` is not over. Both are in the zone.
 */
export async function tookPlace(
  sql: Sql,
  workspaceId: string,
  { since, today, zone, now }: { since: string; today: string; zone: string; now: number },
): Promise<Took[]> {
  const from = daysBetween(since, today) > MOST_DAYS ? addDays(today, -MOST_DAYS) : since
  const span = { from, days: daysBetween(from, today) }
  const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now }
  const reading = await readCloth(sql, { workspaceId, ...span }, viewer, null)
  const past = clothOf(reading, unlowered, span, viewer, () => zone).flatMap(item => {
    const source = reading.read.get(item.key.split('@')[0] ?? item.key)
    const { place } = item
    if (!source || place.kind !== 'timed' || item.atDeadline || item.cancelled) return []
    const time = wholeMinutes(place.startMs, place.endMs)
    const on = dayAt(place.startMs, zone)
    if (!time || on < from || on >= today) return []
    return isAttended(item, time) || (item.done && isTask(item)) ? [{ item, source, time, on }] : []
  })
  const answers = await answersTo(
    sql,
    past.filter(p => p.source.item.kind === 'event' && p.source.item.attendees > 0).map(p => p.source.id),
  )
  const named = await namesOfCollections(sql, { ids: ['', ...new Set(past.map(p => p.source.collectionId))] })
  const names = new Map(named.map(n => [n.id, n.name]))
  return past.map(({ item, source, time, on }) => ({
    people: item.people,
    about: aboutSource(source, item, names.get(source.collectionId) ?? ''),
    time,
    on,
    isDone: isTask(item),
    id: source.id,
    answers: answers.get(source.id),
  }))
}

/** What of it one person had a part in, and did not decline. */
export async function noteAttended(
  sql: Sql,
  person: Somebody,
  took: readonly Took[],
  now: number,
): Promise<void> {
  for (const { people, about, time, on, isDone, id, answers } of took) {
    if (!people.includes(person.id)) continue
    const answer = answers?.get(person.email.toLowerCase())
    if (answer !== undefined && answer !== 'accepted') continue
    await note(sql, person, now, {
      time,
      day: on,
      source: isDone ? 'worked' : 'attended',
      assumed: true,
      about,
      ref: `${isDone ? 'done' : 'met'}:${id}:${time.fromMs}`,
    })
  }
}

const isTask = ({ kind }: ClothItem): boolean => kind === 'task' || kind === 'tied'

const isAttended = (
  { kind, busy, eventKind, done }: ClothItem,
  time: { fromMs: number; toMs: number },
): boolean =>
  kind === 'event' &&
  busy &&
  !done &&
  eventKind !== 'break' &&
  time.toMs - time.fromMs <= MOST_MINUTES * 60_000

/** What each guest has answered, by event and mail address, as far as its calendar says so. */
export async function answersTo(sql: Sql, ids: readonly string[]): Promise<Map<string, Map<string, string>>> {
  const found = new Map<string, Map<string, string>>()
  for (const part of chunks([...new Set(ids)], 200))
    for (const { mirror_id, original } of await originalsOfMirrors(sql, { part })) {
      if (!original.startsWith('BEGIN:VCALENDAR')) continue
      const invited = understoodOr(() => invitedTo(original), null)
      found.set(mirror_id, new Map(invited?.guests.map(g => [g.email.toLowerCase(), g.answer])))
    }
  return found
}
