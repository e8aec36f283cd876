import { type Edit, type Making, addDays, type ClothItem, dayAt, shownAfter } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, type ComputedRef, onBeforeUnmount, type Ref, ref, watch } from 'vue'
import { answer, api, Refused } from '../../../api/client.ts'
import { useLiveState } from '../../../stores/live-state.ts'
import { say } from '../../../stores/messages.ts'
import { useSession } from '../../../stores/session.ts'
import { OptimisticOverlay } from './optimistic-overlay.ts'
import { DaysCache, type Looked } from './days-cache.ts'
import { lostWords, takeBackMade } from '../../../stores/take-back.ts'
import { whenReached } from '../../../stores/unsent.ts'
import { editWords } from './words.ts'

export type ClothData = Looked
/** Which dates of a series an edit is for. */
export type Which = 'one' | 'onward' | 'all'

export interface Cloth {
  data: ComputedRef<ClothData | undefined>
  trouble: ComputedRef<string | null>
  /** Today's items, also while other days are shown. */
  todays: ComputedRef<readonly ClothItem[]>
  /** Epoch ms, by the product's clock. */
  now: Ref<number>
  itemOf: (key: string) => ClothItem | undefined
  edit: (item: ClothItem, edit: Edit, which?: Which) => Promise<void>
  /** Several at once, said and undone as one. */
  editMany: (all: readonly { item: ClothItem; edit: Edit }[], said: string) => Promise<void>
  /** Null when it was refused, which is said. */
  make: (making: Making, said: string) => Promise<{ intent: string; place: string } | null>
  setBatch: (batch: ClothItem, tasks: string[], said: string) => Promise<void>
  duplicate: (item: ClothItem) => Promise<void>
}

const WORKDAYS = 5
/** Long enough after the shown days for these not to be held up by others. */
const AHEAD_AFTER_MS = 400

/** The items of some days; and the one way to change one. */
export function useCloth(range: Ref<{ from: string; days: number }>): Cloth {
  const cache = useQueryCache()
  const session = useSession()
  const live = useLiveState()
  const overlay = new OptimisticOverlay()
  const daysCache = new DaysCache()
  async function ask(from: string, days: number): Promise<ClothData> {
    const asked = overlay.ask()
    return overlay.over(await daysCache.load(from, days), asked)
  }
  const now = ref(session.now())
  const clock = setInterval(() => (now.value = session.now()), 15_000)
  onBeforeUnmount(() => clearInterval(clock))

  const keyOf = (): [string, string, number] => ['cloth', range.value.from, range.value.days]
  const query = useQuery({
    key: keyOf,
    query: () => ask(range.value.from, range.value.days),
    placeholderData: (previous: ClothData | undefined) => previous,
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
      const entry = cache.ensure({ key: ['cloth', there, days], query: () => ask(there, days) })
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
  const keyOfToday = (): [string, string, number] => ['cloth', today.value, 1]
  const ofToday = useQuery({
    key: keyOfToday,
    query: () => ask(today.value, 1),
    enabled: () => !showsToday.value,
    // Until it comes, what was shown before: mostly today was among it.
    placeholderData: (previous: ClothData | undefined) => previous ?? data.value,
  })
  const todays = computed(() => (showsToday.value ? data.value : ofToday.data.value)?.items ?? [])

  const index = computed(() => new Map((data.value?.items ?? []).map(i => [i.key, i])))
  const itemOf = (key: string): ClothItem | undefined =>
    index.value.get(key) ?? todays.value.find(i => i.key === key)
  const refresh = (): void => void cache.invalidateQueries({ key: ['cloth'] })

  const underway = new Map<string, Promise<Edit | null>>()

  function show(item: ClothItem): void {
    for (const key of showsToday.value ? [keyOf()] : [keyOf(), keyOfToday()]) {
      const present = cache.getQueryData<ClothData>(key)
      if (!present) continue
      const known = present.items.some(i => i.key === item.key)
      const items = known ? present.items.map(i => (i.key === item.key ? item : i)) : [...present.items, item]
      cache.setQueryData(key, { ...present, items })
    }
  }

  /** Returns what takes it back; null when nothing does, or it was refused, which is said. */
  async function edit(item: ClothItem, what: Edit, which?: Which, silent = false): Promise<Edit | null> {
    const d = data.value
    if (!d) return null
    const after = shownAfter(item, what, { ...d, now: session.now() })
    if (!which || which === 'one') {
      overlay.show(after)
      show(after)
    }
    // One after the other, in the order in which they were made.
    const turn = (underway.get(item.key) ?? Promise.resolve(null)).then(() =>
      send(item, after, what, which, silent),
    )
    underway.set(item.key, turn)
    live.editsUnderway++
    const inverse = await turn.finally(() => live.editsUnderway--)
    if (underway.get(item.key) === turn) {
      underway.delete(item.key)
      overlay.settle(item.key)
      if (live.editsUnderway === 0) refresh()
    }
    return inverse
  }

  async function editMany(
    all: readonly { item: ClothItem; edit: Edit }[],
    said: string,
    silent = false,
  ): Promise<void> {
    const done = await Promise.all(
      all.map(async ({ item, edit: what }) => ({ item, edit: await edit(item, what, undefined, true) })),
    )
    const back = done.flatMap(({ item, edit: e }) => (e ? [{ item: itemOf(item.key) ?? item, edit: e }] : []))
    if (back.length > 0 && !silent) say({ text: said, undo: () => void editMany(back, '', true) })
  }

  async function send(
    item: ClothItem,
    after: ClothItem,
    what: Edit,
    which: Which | undefined,
    silent: boolean,
  ): Promise<Edit | null> {
    const d = data.value
    if (!d) return null
    const param = { key: item.key }
    try {
      const { inverse } = await whenReached(() =>
        which
          ? answer(() => api.cloth[':key'].series.$post({ param, json: { edit: what, which } }))
          : answer(() => api.cloth[':key'].edit.$post({ param, json: what })),
      )
      if (silent) return inverse
      const text = editWords(after, what, d)
      if (!inverse) {
        say({ text })
        return null
      }
      const back = inverse.do === 'series-back' ? 'one' : undefined
      const target = inverse.do === 'restore' ? { ...item, key: item.key.split('@')[0] ?? item.key } : null
      say({
        text,
        undo: () => void edit(target ?? itemOf(item.key) ?? after, inverse, back, true),
      })
      return inverse
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      overlay.forget(item.key)
      show(item)
      say({ text: `${item.title}: not changed. ${error.message}`, tone: 'wrong' })
      return null
    }
  }

  async function tried<T>(title: string, act: () => Promise<T>): Promise<T | null> {
    live.editsUnderway++
    try {
      return await whenReached(act)
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      say({ text: `${title}: ${error.message}`, tone: 'wrong' })
      return null
    } finally {
      live.editsUnderway--
      refresh()
    }
  }

  async function make(making: Making, said: string) {
    const made = await tried('Not made', () => answer(() => api.cloth.make.$post({ json: making })))
    const title = making.title ?? (making.what === 'block' ? itemOf(making.task)?.title : null) ?? 'It'
    if (made)
      say({ text: `${said}${lostWords(made.lost)}`, undo: () => void takeBackMade(made.intent, title) })
    return made
  }

  async function setBatch(batch: ClothItem, tasks: string[], said: string, silent = false): Promise<void> {
    const held = new Map(batch.batch.map(t => [t.key, t]))
    const lines = tasks.flatMap(key => {
      const known = held.get(key)
      const task = itemOf(key)
      return known ?? (task ? { key, title: task.title, done: task.done, completable: task.completable } : [])
    })
    show({ ...batch, batch: lines })
    const param = { key: batch.key }
    const done = await tried(batch.title, () =>
      answer(() => api.cloth[':key'].batch.$put({ param, json: { tasks } })),
    )
    if (done && !silent)
      say({
        text: said,
        undo: () => void setBatch(itemOf(batch.key) ?? batch, done.before, '', true),
      })
  }

  async function duplicate(item: ClothItem): Promise<void> {
    const made = await tried(item.title, () =>
      answer(() => api.cloth[':key'].duplicate.$post({ param: { key: item.key }, json: { start: null } })),
    )
    if (made)
      say({
        text: `${item.title}: copied in ${made.place}.`,
        undo: () => void takeBackMade(made.intent, item.title),
      })
  }

  return {
    data,
    trouble: computed(() => query.error.value?.message ?? null),
    todays,
    now,
    itemOf,
    edit: async (item, what, which) => void (await edit(item, what, which)),
    editMany: (all, said) => editMany(all, said),
    make,
    setBatch: (batch, tasks, said) => setBatch(batch, tasks, said),
    duplicate,
  }
}
