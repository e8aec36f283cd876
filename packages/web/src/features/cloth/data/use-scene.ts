import {
  axisOf,
  CategoryNames,
  cellRows,
  clashesIn,
  type CellRow,
  type Clash,
  type ClothItem,
  datesShown,
  dayAt,
  type Free,
  hourRows,
  type HourRow,
  isPutBy,
  nowOn,
  plainSettings,
  type RowOf,
  shelve,
  type ShelfGroup,
  shownIn,
  type ViewBody,
  wallMinutes,
  type WorkingHours,
} from '@loom/core/view'
import { useMediaQuery } from '@vueuse/core'
import { computed, type ComputedRef, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useMine } from '../../../stores/mine.ts'
import { useSession } from '../../../stores/session.ts'
import { headingOf } from './days.ts'
import { keepEqual } from './keep-equal.ts'
import { type Dyed, dyedBy } from './dyes.ts'
import { type ShelfLines, useDrawnLines } from './drawn-lines.ts'
import type { Source } from './signs.ts'
import { type Cloth, type ClothData, useCloth } from './use-cloth.ts'
import { useFreeTime } from './use-free-time.ts'
import { NARROW, type View } from './use-view.ts'
import { rowsOfView, weeksOf } from './view-rows.ts'

/** What the Cloth draws now: the items of some days, laid out as the view says. */

type Axis = ReturnType<typeof axisOf>

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
  drawnAs: ComputedRef<'hours' | 'cells' | 'list'>
  sources: ComputedRef<Source[]>
  shown: ComputedRef<ClothItem[]>
  /** What is shown, with what is no item yet: drawn in the rows, and by its key. */
  drawn: ComputedRef<ClothItem[]>
  drawnOf: (key: string) => ClothItem | undefined
  dyes: ComputedRef<(item: ClothItem) => Dyed[]>
  rows: ComputedRef<HourRow[]>
  cells: ComputedRef<CellRow[]>
  listRows: ComputedRef<CellRow[]>
  /** On a telephone: the days come one under another. */
  isNarrow: Ref<boolean>
  axis: ComputedRef<Axis>
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

/** @param onto adds what is drawn and is no item yet */
export function useScene(view: View, onto: (items: ClothItem[]) => ClothItem[] = items => items): Scene {
  const route = useRoute()
  const router = useRouter()
  const session = useSession()
  const mine = useMine()
  const categories = computed(() => data.value?.categories ?? [])
  /** A filter names categories as they were called when it was made. */
  const body = computed((): ViewBody => {
    const names = new CategoryNames(categories.value)
    const filter = view.body.value.filter.map(c =>
      c.field === 'category' ? { ...c, is: [...new Set(c.is.map(names.nameOf))] } : c,
    )
    return categories.value.length === 0 ? view.body.value : { ...view.body.value, filter }
  })
  const zone = computed(() => session.person?.zone ?? 'UTC')
  const asked = computed(() => (typeof route.query.at === 'string' ? route.query.at : ''))
  const today = computed(() => dayAt(cloth.now.value, zone.value))
  const at = computed(() =>
    /^\d{4}-\d\d-\d\d$/.test(asked.value) ? asked.value : dayAt(session.now(), zone.value),
  )
  const weekStart = computed(() => mine.settings.value.weekStart)
  const dates = computed(() => datesShown(view.body.value, at.value, weekStart.value))
  const range = computed(() => ({ from: dates.value[0] ?? at.value, days: dates.value.length }))
  const cloth = useCloth(range)
  const { data, now } = cloth

  const sources = computed((): Source[] =>
    (data.value?.sources ?? []).map(s => {
      const look = mine.settings.value.sources[s.id]
      return { ...s, name: look?.name || s.name, dye: look?.dye || s.dye }
    }),
  )
  const dyes = computed(() =>
    dyedBy({
      by: body.value.dyed,
      sources: sources.value,
      people: data.value?.people ?? [],
      categories: categories.value,
    }),
  )
  const terms = computed(() => ({ now: now.value, zone: zone.value }))
  const shown = computed(() => shownIn(body.value, data.value?.items ?? [], terms.value))
  const drawn = computed(() => onto(shown.value))
  const names = computed(
    () => new Map([...sources.value, ...(data.value?.people ?? [])].map(x => [x.id, x.name] as const)),
  )
  const nameOf = (id: string): string => names.value.get(id) ?? 'somebody'
  const plainHours: WorkingHours = { ...plainSettings.hours, zone: 'UTC' }
  const hoursOf = (member: string): WorkingHours =>
    data.value?.people.find(p => p.id === member)?.hours ?? { ...plainHours, zone: zone.value }

  const isNarrow = useMediaQuery(NARROW)
  const drawnAs = computed((): 'hours' | 'cells' | 'list' => {
    const { span, rows } = body.value
    if (span === 'list') return 'list'
    if (span === 'month' || (rows !== 'days' && dates.value.length > 1)) return 'cells'
    // Hours that have to be pushed to and fro cannot be read: the days come one under another.
    return isNarrow.value && rows === 'days' ? 'list' : 'hours'
  })
  const rowsOf = computed((): RowOf[] => {
    const d = data.value
    const terms = d && { me: d.me, people: d.people, sources: sources.value, hours: hoursOf(d.me) }
    return terms ? rowsOfView(body.value, shown.value, terms) : []
  })
  const options = computed(() => ({
    zone: zone.value,
    defaultMinutes: data.value?.defaultMinutes ?? 30,
    now: now.value,
  }))
  const rows = computed<HourRow[]>(was =>
    drawnAs.value === 'hours'
      ? keepEqual(was, hourRows(drawn.value, rowsOf.value, dates.value, options.value))
      : [],
  )
  const axis = computed<Axis>(was => keepEqual(was, axisOf(rows.value, hoursOf(data.value?.me ?? ''))))
  const cells = computed((): CellRow[] => {
    if (drawnAs.value !== 'cells') return []
    if (body.value.span !== 'month') return cellRows(drawn.value, rowsOf.value, dates.value, options.value)
    return weeksOf(drawn.value, rowsOf.value, dates.value, options.value)
  })
  const listRows = computed(() =>
    drawnAs.value === 'list'
      ? cellRows(drawn.value, rowsOf.value.slice(0, 1), dates.value, options.value)
      : [],
  )

  /** Working time not yet taken until the end of a day, as far as it can be told from what is here. */
  const freeByDay = computed(() => {
    const found = new Map<string, number>()
    const me = data.value?.me ?? ''
    if (drawnAs.value !== 'hours' || body.value.rows !== 'days') return found
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
    drawnAs,
    sources,
    shown,
    drawn,
    drawnOf: key => drawn.value.find(i => i.key === key),
    dyes,
    rows,
    cells,
    listRows,
    isNarrow,
    axis,
    nowMinute: date => nowOn(date, options.value),
    shelf,
    lines: useDrawnLines(line => line.item.key),
    away,
    clashes,
    nothingShown,
    nameOf,
    hoursOf,
    ...useFreeTime({ data, now, zone, today, dates, rows, axis, hoursOf }),
    go,
    openDay,
  }
}
