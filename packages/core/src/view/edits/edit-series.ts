import type { Event, ItemPatch, OccurrenceChange, Span } from '../../items/items.ts'
import { inZone, MINUTE, type When, zonedAt } from '../../time/when.ts'
import type { ClothItem, ItemSource } from '../cloth-item.ts'
import type { Edit } from './edit.ts'
import { patchEventObject } from '../../formats/patch-object.ts'
import { isFirst, patchSeries, seriesFrom } from '../../formats/series-edit.ts'

/** What an edit of one date of a series on the Cloth comes to: for this one, this and later ones, or all. */
export type Which = 'one' | 'onward' | 'all'

export type SeriesPlan =
  | {
      ok: true
      patch: ItemPatch | null
      /** The whole series is to be deleted. */
      remove: boolean
      /** What goes on as a series of its own from this date. */
      make: string | null
    }
  | { ok: false; reason: string }

/** `item` is the date as it is drawn; `id` its RECURRENCE-ID. Throws NotUnderstood as patchSeries does. */
export function decideSeriesEdit(
  { event, item, text }: { event: ItemSource<Event>; item: ClothItem; text: string },
  id: string,
  edit: Edit,
  which: Which,
  terms: { uid: string; zone: string; now: number },
): SeriesPlan {
  if (!event.writable) return { ok: false, reason: 'Its calendar can only be read.' }
  const plan = (rest: Partial<Extract<SeriesPlan, { ok: true }>>): SeriesPlan => ({
    ok: true,
    patch: null,
    remove: false,
    make: null,
    ...rest,
  })
  const scope: Which = which === 'onward' && isFirst(text, id) ? 'all' : which
  if (edit.do === 'delete') {
    if (scope === 'all') return plan({ remove: true })
    return plan({ patch: { series: { do: scope === 'one' ? 'drop' : 'end-before', id } } })
  }
  const change = changeOf(event.item, item, edit, terms.zone)
  if (!change) return { ok: false, reason: 'That cannot be done to something that repeats.' }
  if (event.item.attendees > 0 && !event.tellsGuests)
    return { ok: false, reason: 'It has guests. Change it in its own calendar, so that they are told.' }
  const { time, ...said } = change
  // Whatever is asked is tried upon the text first, so that a refusal comes with its reason before any write.
  if (scope === 'one') {
    const patch = { series: { do: 'change' as const, id, change } }
    patchSeries(text, patch.series, terms.now)
    return plan({ patch })
  }
  const all = (of: string): string =>
    patchEventObject(of, { ...said, ...(time && { series: { do: 'shift', id, time } }) }, terms.now)
  if (scope === 'onward') {
    const make = all(seriesFrom(text, id, terms.uid, terms.now))
    return plan({ patch: { series: { do: 'end-before', id } }, make })
  }
  all(text)
  return plan({ patch: { ...said, ...(time && { series: { do: 'shift', id, time } }) } })
}

function changeOf(event: Event, item: ClothItem, edit: Edit, zone: string): OccurrenceChange | null {
  const inSeriesZone = (start: When): When =>
    event.time.anchor.kind === 'zoned' && start.kind === 'zoned'
      ? inZone(start, event.time.anchor.zone, start.zone)
      : event.time.anchor.kind === 'floating' && start.kind === 'zoned'
        ? { kind: 'floating', local: start.local }
        : start
  const minutes =
    item.place.kind === 'timed' ? (item.place.endMs - item.place.startMs) / MINUTE : event.time.minutes
  switch (edit.do) {
    case 'place': {
      const time: Span = { anchor: inSeriesZone(edit.start), minutes: edit.minutes ?? minutes }
      return { time }
    }
    case 'lengthen':
      if (item.place.kind !== 'timed') return null
      return { time: { anchor: inSeriesZone(zonedAt(item.place.startMs, zone)), minutes: edit.minutes } }
    case 'rename':
      return { summary: edit.title }
    case 'say': {
      const { summary, location, description } = edit.said
      const said = {
        ...(summary !== undefined && { summary }),
        ...(location !== undefined && { location }),
        ...(description !== undefined && { description }),
      }
      return Object.keys(said).length === Object.keys(edit.said).length ? said : null
    }
    default:
      return null
  }
}
