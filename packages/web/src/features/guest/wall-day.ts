import { addDays, type ClothItem, dayAt, epochOf, onDate } from '@loom/core/view'

/** What is left of today for each person, as a wall screen tells it. */

export interface WallLine {
  key: string
  title: string
  /** Epoch ms. */
  fromMs: number
  toMs: number
}

export interface WallPerson {
  id: string
  name: string
  /** What is going on; the one that began last where there are several. */
  now: WallLine | null
  /** What comes, soonest first. */
  ahead: WallLine[]
  /** All-day things of today. */
  wholeDay: string[]
}

/** Of nobody comes last, where there is any. @param nowMs epoch ms */
export function wallDay(
  items: readonly ClothItem[],
  people: readonly { id: string; name: string }[],
  nowMs: number,
  zone: string,
): WallPerson[] {
  const today = dayAt(nowMs, zone)
  const endMs = epochOf(onDate(addDays(today, 1)), zone)
  const open = items.filter(i => !i.done && !i.cancelled && !i.atDeadline)
  const lineOf = ({ key, title, onlyBusy, place }: ClothItem): WallLine[] =>
    place.kind === 'timed' && place.endMs > nowMs && place.startMs < endMs
      ? [{ key, title: onlyBusy ? 'busy' : title, fromMs: place.startMs, toMs: place.endMs }]
      : []
  const dayOf = (own: readonly ClothItem[]) => {
    const lines = own.flatMap(lineOf).sort((x, y) => x.fromMs - y.fromMs || x.toMs - y.toMs)
    return {
      now: lines.findLast(l => l.fromMs <= nowMs) ?? null,
      ahead: lines.filter(l => l.fromMs > nowMs),
      wholeDay: own.flatMap(({ place, title, onlyBusy }) =>
        place.kind === 'all-day' && place.from <= today && (today < place.to || today === place.from)
          ? [onlyBusy ? 'busy' : title]
          : [],
      ),
    }
  }
  const named = people.map(p => ({ ...p, ...dayOf(open.filter(i => i.people.includes(p.id))) }))
  const strays = dayOf(open.filter(i => i.people.length === 0))
  const isStray = strays.now !== null || strays.ahead.length > 0 || strays.wholeDay.length > 0
  return isStray ? [...named, { id: '', name: 'The team', ...strays }] : named
}
