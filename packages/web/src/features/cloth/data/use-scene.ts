import {
  axisOf,
  cellRows,
  clashesIn,
  type CellRow,
  type Clash,
  type ClothItem,
  dayAt,
  freeAround as freeSpanAround,
  type Free,
  freeSpans,
  hourRows,
  type HourRow,
  epochOf,
  isoWeekOf,
  isPutBy,
  lengthOf,
  nowOn,
  onDate,
  plainSettings,
  type RowOf,
  shelve,
  type ShelfGroup,
  shownIn,
  type ViewBody,
  wallMinutes,
  type WorkingHours,
} from '@loom/core/view'
import { computed, type ComputedRef, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMine } from '../../../stores/mine.ts'
import { useSession } from '../../../stores/session.ts'
import { datesOf, headingOf } from './days.ts'
import { type ShelfLines, useDrawnLines } from './drawn-lines.ts'
import type { Source } from './signs.ts'
import { type Cloth, type ClothData, useCloth } from './use-cloth.ts'
import type { View } from './use-view.ts'

/** What the Cloth draws now: the items of some days, laid out as the view says. */

export interface Scene {
  cloth: Cloth
  data: ComputedRef<ClothData | undefined>
  body: ComputedRef<ViewBody>
  now: Ref<number>
  zone: ComputedRef<string>
  at: ComputedRef<string>
  today: ComputedRef<string>
  dates: ComputedRef<string[]>
  heading: ComputedRef<string>
  drawn: ComputedRef<'hours' | 'cells' | 'list'>
  sources: ComputedRef<Source[]>
  shown: ComputedRef<ClothItem[]>
  rows: ComputedRef<HourRow[]>
  cells: ComputedRef<CellRow[]>
  listRows: ComputedRef<CellRow[]>
  axis: ComputedRef<{ from: number; to: number }>
  nowMinute: (date: string) => number | null
  shelf: ComputedRef<ShelfGroup[]>
  lines: ShelfLines
  away: ComputedRef<ClothItem[]>
  clashes: ComputedRef<Clash[]>
  nothingShown: ComputedRef<boolean>
  nameOf: (id: string) => string
  hoursOf: (member: string) => WorkingHours
  room: (item: ClothItem, further?: boolean) => Free[]
  /** The next spans of the viewer's own working hours with room for so much, on the days that are shown. */
  freeFor: (minutes: number) => Free[]
  freeAround: (date: string, row: string, minute: number) => { from: number; to: number } | null
  go: (at: string | null) => void
  openDay: (date: string) => void
}

const NOBODY = 'nobody'

export function useScene(view: View): Scene {
  const route = useRoute()
  const router = useRouter()
  const session = useSession()
  const mine = useMine()
  const body = view.body
  const zone = computed(() => session.person?.zone ?? 'UTC')
  const asked = computed(() => (typeof route.query.at === 'string' ? route.query.at : ''))
  const today = computed(() => dayAt(cloth.now.value, zone.value))
  const at = computed(() =>
    /^\d{4}-\d\d-\d\d$/.test(asked.value) ? asked.value : dayAt(session.now(), zone.value),
  )
  const weekStart = computed(() => mine.settings.value.weekStart)
  const dates = computed(() => datesOf(body.value, at.value, weekStart.value))
  const range = computed(() => ({ from: dates.value[0] ?? at.value, days: dates.value.length }))
  const cloth = useCloth(range)
  const { data, now } = cloth

  const sources = computed((): Source[] =>
    (data.value?.sources ?? []).map(s => {
      const look = mine.settings.value.sources[s.id]
      return { ...s, name: look?.name || s.name, dye: look?.dye || s.dye }
    }),
  )
  const terms = computed(() => ({ now: now.value, zone: zone.value }))
  const shown = computed(() => shownIn(body.value, data.value?.items ?? [], terms.value))
  const names = computed(
    () => new Map([...sources.value, ...(data.value?.people ?? [])].map(x => [x.id, x.name] as const)),
  )
  const nameOf = (id: string): string => names.value.get(id) ?? 'somebody'
  const plainHours: WorkingHours = { ...plainSettings.hours, zone: 'UTC' }
  const hoursOf = (member: string): WorkingHours =>
    data.value?.people.find(p => p.id === member)?.hours ?? { ...plainHours, zone: zone.value }

  const drawn = computed((): 'hours' | 'cells' | 'list' => {
    const { span, rows } = body.value
    if (span === 'list') return 'list'
    return span === 'month' || (rows !== 'days' && dates.value.length > 1) ? 'cells' : 'hours'
  })
  const rowsOf = computed((): RowOf[] => {
    const d = data.value
    if (!d) return []
    const own = hoursOf(d.me)
    const isMine = (i: ClothItem): boolean => i.people.length === 0 || i.people.includes(d.me)
    const { rows, span, hidden } = body.value
    if (rows === 'people' && span !== 'month') {
      const people = d.people.map((p): RowOf => ({
        key: p.id,
        title: p.name,
        hours: p.hours,
        contains: i => i.people.includes(p.id),
      }))
      const strays = shown.value.some(i => i.people.length === 0 && i.place.kind !== 'none')
      const nobody: RowOf = { key: NOBODY, title: 'Nobody', hours: own, contains: i => i.people.length === 0 }
      return strays ? [...people, nobody] : people
    }
    if (rows === 'sources' && span !== 'month')
      return sources.value
        .filter(
          s =>
            !hidden.includes(s.id) &&
            shown.value.some(i => i.sources.includes(s.id) && i.place.kind !== 'none'),
        )
        .map((s): RowOf => ({
          key: s.id,
          title: s.name,
          hours: own,
          contains: i => i.sources.includes(s.id),
        }))
    return [{ key: 'all', title: '', hours: own, contains: () => true, counts: isMine }]
  })
  const options = computed(() => ({
    zone: zone.value,
    defaultMinutes: data.value?.defaultMinutes ?? 30,
    now: now.value,
  }))
  const rows = computed(() =>
    drawn.value === 'hours' ? hourRows(shown.value, rowsOf.value, dates.value, options.value) : [],
  )
  const axis = computed(() => axisOf(rows.value, hoursOf(data.value?.me ?? '')))
  const cells = computed((): CellRow[] => {
    if (drawn.value !== 'cells') return []
    if (body.value.span !== 'month') return cellRows(shown.value, rowsOf.value, dates.value, options.value)
    const weeks: CellRow[] = []
    for (let i = 0; i < dates.value.length; i += 7) {
      const week = dates.value.slice(i, i + 7)
      const [row] = cellRows(shown.value, rowsOf.value, week, options.value)
      if (row) weeks.push({ ...row, key: week[0] ?? '', title: String(isoWeekOf(week[3] ?? week[0] ?? '')) })
    }
    return weeks
  })
  const listRows = computed(() =>
    drawn.value === 'list' ? cellRows(shown.value, rowsOf.value.slice(0, 1), dates.value, options.value) : [],
  )

  /** Working time not yet taken until the end of a day, as far as it can be told from what is here. */
  const freeByDay = computed(() => {
    const found = new Map<string, number>()
    const me = data.value?.me ?? ''
    if (drawn.value !== 'hours' || body.value.rows !== 'days') return found
    let sum = 0
    for (const row of rows.value) {
      if (row.date < today.value) continue
      const left =
        row.date === today.value
          ? Math.max(0, hoursOf(me).to - wallMinutes(now.value, row.date, zone.value))
          : row.load.capacity
      sum += Math.max(0, Math.min(left, row.load.capacity - row.load.committed))
      found.set(row.date, sum)
    }
    return found
  })
  const shelf = computed(() =>
    shelve(shown.value, {
      ...options.value,
      view: body.value,
      nameOf,
      freeUntil: date => freeByDay.value.get(date) ?? null,
    }),
  )
  const away = computed(() =>
    (data.value?.items ?? []).filter(i => !i.done && (isPutBy(i, today.value) || i.leftOut)),
  )
  const clashes = computed(() => clashesIn(shown.value))
  const nothingShown = computed(() => (data.value?.items.length ?? 0) > 0 && shown.value.length === 0)

  const itemsOf = (people: readonly string[]): ClothItem[] =>
    (data.value?.items ?? []).filter(i => i.people.length === 0 || i.people.some(p => people.includes(p)))

  /** `further`: beside the time that the item has already. */
  function room(item: ClothItem, further = false): Free[] {
    const d = data.value
    if (!d) return []
    const whose = item.people[0] ?? d.me
    const others = itemsOf([whose]).filter(i => further || i.key !== item.key)
    return freeAmong(others, whose, lengthOf(item, d.defaultMinutes))
  }
  const freeFor = (minutes: number): Free[] => {
    const me = data.value?.me
    return me === undefined ? [] : freeAmong(itemsOf([me]), me, minutes)
  }
  function freeAmong(items: readonly ClothItem[], whose: string, minutes: number): Free[] {
    const last = dates.value.at(-1) ?? today.value
    const days = Math.max(1, Math.min(14, (Date.parse(last) - Date.parse(today.value)) / 86_400_000 + 1))
    return freeSpans(items, hoursOf(whose), { ms: now.value, date: today.value }, minutes, days)
  }

  function freeAround(date: string, row: string, minute: number): { from: number; to: number } | null {
    const d = data.value
    if (!d) return null
    const whose = d.people.some(p => p.id === row) ? row : d.me
    const day = epochOf(onDate(date), zone.value)
    const hours = rows.value.find(r => r.date === date && r.key.startsWith(row))?.hours
    const bounds = hours ?? axis.value
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

  function go(to: string | null): void {
    const { at: _, item: __, ...rest } = route.query
    void router.replace({ query: { ...rest, ...(to && { at: to }) } })
  }
  function openDay(date: string): void {
    view.set({ span: 'day' })
    go(date)
  }

  return {
    cloth,
    data,
    body,
    now,
    zone,
    at,
    today,
    dates,
    heading: computed(() => headingOf(body.value, dates.value, at.value)),
    drawn,
    sources,
    shown,
    rows,
    cells,
    listRows,
    axis,
    nowMinute: date => nowOn(date, options.value),
    shelf,
    lines: useDrawnLines(line => line.item.key),
    away,
    clashes,
    nothingShown,
    nameOf,
    hoursOf,
    room,
    freeFor,
    freeAround,
    go,
    openDay,
  }
}
