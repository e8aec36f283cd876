import { addDays, type ClothItem, dayAt } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, onBeforeUnmount, type Ref, ref, watch } from 'vue'
import { useMessages } from '../../../stores/messages.ts'
import { useSession } from '../../../stores/session.ts'
import { DaysCache, type Looked } from './days-cache.ts'
import { OptimisticOverlay } from './optimistic-overlay.ts'

const WORKDAYS = 5
/** Long enough after the shown days for these not to be held up by others. */
const AHEAD_AFTER_MS = 400

export type Days = ReturnType<typeof useDays>

/** The items of some days, and of today: fetched, kept near, and with the edits shown that the server does not know of yet. */
export function useDays(range: Ref<{ from: string; days: number }>) {
  const cache = useQueryCache()
  const session = useSession()
  const overlay = new OptimisticOverlay()
  /** What is undone, and what other days and screens show, may hold what is no longer theirs to see. */
  function otherSight(): void {
    useMessages().forgetUndo()
    // After the answer that told it has been taken in.
    void Promise.resolve().then(() => cache.invalidateQueries())
  }
  const daysCache = new DaysCache(() => session.onlyLooks, otherSight, true)
  async function ask(from: string, days: number): Promise<Looked> {
    const asked = overlay.ask()
    return overlay.over(await daysCache.load(from, days, session.seesAs?.id ?? null), asked)
  }
  const now = ref(session.now())
  const clock = setInterval(() => (now.value = session.now()), 15_000)
  onBeforeUnmount(() => clearInterval(clock))

  const whose = (): string => session.seesAs?.id ?? ''
  const keyOf = (): [string, string, number, string] => ['cloth', range.value.from, range.value.days, whose()]
  const query = useQuery({
    key: keyOf,
    query: () => ask(range.value.from, range.value.days),
    placeholderData: (previous: Looked | undefined) => previous,
  })
  // The days are under way while the screen is still being drawn; by itself they would be asked for afterwards.
  void query.refresh()
  /** Loads the days before and after ahead of time. */
  function lookAhead(): void {
    const { from, days } = range.value
    if (days > 14) return
    const step = days === WORKDAYS ? 7 : days
    for (const by of [step, -step]) {
      const there = addDays(from, by)
      const entry = cache.ensure({ key: ['cloth', there, days, whose()], query: () => ask(there, days) })
      // A failure is reported when these days are opened.
      cache.refresh(entry).catch(() => undefined)
    }
  }
  let idle = 0
  watch(
    () => query.status.value === 'success' && `${range.value.from} ${range.value.days}`,
    shown => {
      window.clearTimeout(idle)
      if (shown) idle = window.setTimeout(lookAhead, AHEAD_AFTER_MS)
    },
    { immediate: true },
  )
  onBeforeUnmount(() => window.clearTimeout(idle))
  const data = computed(() => query.data.value)

  // Today is loaded as well while other days are shown.
  const today = computed(() => dayAt(now.value, session.person?.zone ?? 'UTC'))
  const showsToday = computed(() => {
    const { from, days } = range.value
    return from <= today.value && today.value < addDays(from, days)
  })
  const keyOfToday = (): [string, string, number, string] => ['cloth', today.value, 1, whose()]
  const ofToday = useQuery({
    key: keyOfToday,
    query: () => ask(today.value, 1),
    enabled: () => !showsToday.value,
    // Until it comes, what was shown before: mostly today was among it.
    placeholderData: (previous: Looked | undefined) => previous ?? data.value,
  })
  const todays = computed(() => (showsToday.value ? data.value : ofToday.data.value)?.items ?? [])

  const index = computed(() => new Map((data.value?.items ?? []).map(i => [i.key, i])))
  const itemOf = (key: string): ClothItem | undefined =>
    index.value.get(key) ?? todays.value.find(i => i.key === key)
  const refresh = (): void => void cache.invalidateQueries({ key: ['cloth'] })

  function show(item: ClothItem): void {
    for (const key of showsToday.value ? [keyOf()] : [keyOf(), keyOfToday()]) {
      const present = cache.getQueryData<Looked>(key)
      if (!present) continue
      const known = present.items.some(i => i.key === item.key)
      const items = known ? present.items.map(i => (i.key === item.key ? item : i)) : [...present.items, item]
      cache.setQueryData(key, { ...present, items })
    }
  }

  return {
    data,
    trouble: computed(() => query.error.value?.message ?? null),
    todays,
    now,
    overlay,
    itemOf,
    show,
    refresh,
  }
}
