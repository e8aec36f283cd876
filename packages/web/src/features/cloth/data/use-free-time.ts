import {
  type ClothItem,
  epochOf,
  type Free,
  freeAround as freeSpanAround,
  freeSpans,
  type HourRow,
  lengthOf,
  onDate,
  wallMinutes,
  type WorkingHours,
} from '@loom/core/view'
import type { ComputedRef, Ref } from 'vue'
import type { ClothData } from './use-cloth.ts'

const MOST_DAYS = 14

interface Drawn {
  data: ComputedRef<ClothData | undefined>
  now: Ref<number>
  zone: ComputedRef<string>
  today: ComputedRef<string>
  dates: ComputedRef<string[]>
  rows: ComputedRef<HourRow[]>
  axis: ComputedRef<{ from: number; to: number }>
  hoursOf: (member: string) => WorkingHours
}

/** Time that nothing takes yet, as far as the days that are shown tell. */
export function useFreeTime({ data, now, zone, today, dates, rows, axis, hoursOf }: Drawn) {
  const itemsOf = (people: readonly string[]): ClothItem[] =>
    (data.value?.items ?? []).filter(i => i.people.length === 0 || i.people.some(p => people.includes(p)))

  function freeAmong(items: readonly ClothItem[], whose: string, minutes: number): Free[] {
    const last = dates.value.at(-1) ?? today.value
    const shown = (Date.parse(last) - Date.parse(today.value)) / 86_400_000 + 1
    const days = Math.max(1, Math.min(MOST_DAYS, shown))
    return freeSpans(items, hoursOf(whose), { ms: now.value, date: today.value }, minutes, days)
  }

  /** Where an item fits; `further`: beside the time that it has already. */
  function room(item: ClothItem, further = false): Free[] {
    const d = data.value
    if (!d) return []
    const whose = item.people[0] ?? d.me
    const others = itemsOf([whose]).filter(i => further || i.key !== item.key)
    return freeAmong(others, whose, lengthOf(item, d.defaultMinutes))
  }

  /** The next spans of the viewer's own working hours with room for so much. */
  function freeFor(minutes: number): Free[] {
    const me = data.value?.me
    return me === undefined ? [] : freeAmong(itemsOf([me]), me, minutes)
  }

  /** The free span around a minute of a row's day, in minutes of that day. */
  function freeAround(date: string, row: string, minute: number): { from: number; to: number } | null {
    const d = data.value
    if (!d) return null
    const whose = d.people.some(p => p.id === row) ? row : d.me
    const day = epochOf(onDate(date), zone.value)
    const bounds = rows.value.find(r => r.date === date && r.key.startsWith(row))?.hours ?? axis.value
    const free = freeSpanAround(itemsOf([whose]), day + minute * 60_000, {
      startMs: day + bounds.from * 60_000,
      endMs: day + bounds.to * 60_000,
    })
    if (!free) return null
    return {
      from: wallMinutes(free.startMs, date, zone.value),
      to: wallMinutes(free.endMs, date, zone.value),
    }
  }
  return { room, freeFor, freeAround }
}
