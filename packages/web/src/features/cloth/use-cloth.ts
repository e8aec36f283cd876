import type { Edit } from '@loom/core/view'
import {
  type ClothItem,
  clockWords,
  dayWords,
  durationWords,
  instantDayWords,
  layoutWeek,
  lengthOf,
  shownAfter,
  type Week,
} from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, type ComputedRef, onBeforeUnmount, type Ref, ref } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'
import { editsUnderway } from '../../api/live.ts'
import { say } from '../../app/messages.ts'
import { useSession } from '../../app/session.ts'

export const DAYS = 7

const load = (from: string) => answer(() => api.cloth.$get({ query: { from, days: String(DAYS) } }))
export type ClothData = Awaited<ReturnType<typeof load>>

export interface Cloth {
  data: ComputedRef<ClothData | undefined>
  week: ComputedRef<Week | null>
  trouble: ComputedRef<string | null>
  /** Epoch ms, by the product's clock. */
  now: Ref<number>
  itemOf: (key: string) => ClothItem | undefined
  edit: (item: ClothItem, edit: Edit) => Promise<void>
}

/** A week's items, laid out; and the one way to change one. */
export function useCloth(from: Ref<string>): Cloth {
  const cache = useQueryCache()
  const session = useSession()
  const keyOf = (day: string): string[] => ['cloth', day]
  const query = useQuery({
    key: () => keyOf(from.value),
    query: () => load(from.value),
    placeholderData: (previous: ClothData | undefined) => previous,
  })
  const now = ref(session.now())
  const data = computed(() => query.data.value)
  const clock = setInterval(() => (now.value = session.now()), 15_000)
  onBeforeUnmount(() => clearInterval(clock))

  const week = computed((): Week | null => {
    const d = data.value
    if (!d) return null
    const { zone, hours, defaultMinutes } = d
    return layoutWeek(d.items, { from: from.value, days: DAYS, zone, hours, defaultMinutes, now: now.value })
  })

  const itemOf = (key: string): ClothItem | undefined => data.value?.items.find(i => i.key === key)

  const underway = new Map<string, Promise<void>>()

  function show(item: ClothItem): void {
    const key = keyOf(from.value)
    const present = cache.getQueryData<ClothData>(key)
    if (!present) return
    const items = present.items.map(i => (i.key === item.key ? item : i))
    cache.setQueryData(key, { ...present, items })
  }

  async function edit(item: ClothItem, what: Edit, silent = false): Promise<void> {
    const d = data.value
    if (!d) return
    const after = shownAfter(item, what, d)
    show(after)
    // One after the other, in the order in which they were made.
    const turn = (underway.get(item.key) ?? Promise.resolve()).then(() => send(item, after, what, silent))
    underway.set(item.key, turn)
    editsUnderway.value++
    await turn.finally(() => editsUnderway.value--)
    if (underway.get(item.key) === turn) {
      underway.delete(item.key)
      if (editsUnderway.value === 0) void cache.invalidateQueries({ key: ['cloth'] })
    }
  }

  async function send(item: ClothItem, after: ClothItem, what: Edit, silent: boolean): Promise<void> {
    const d = data.value
    if (!d) return
    try {
      const { inverse } = await answer(() =>
        api.cloth[':key'].edit.$post({ param: { key: item.key }, json: what }),
      )
      if (!silent)
        say({
          text: wordsFor(after, what, d),
          undo: () => void edit(itemOf(item.key) ?? after, inverse, true),
        })
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      show(item)
      say({ text: `${item.title}: not changed. ${error.message}`, tone: 'wrong' })
    }
  }

  return {
    data,
    week,
    trouble: computed(() => query.error.value?.message ?? null),
    now,
    itemOf,
    edit: (item, what) => edit(item, what),
  }
}

function wordsFor(item: ClothItem, edit: Edit, d: ClothData): string {
  switch (edit.do) {
    case 'complete':
      return `${item.title}: done.`
    case 'reopen':
      return `${item.title}: open again.`
    case 'rename':
      return `Renamed to ${item.title}.`
    case 'unplace':
      return `${item.title}: back on the shelf.`
    case 'lengthen':
      return `${item.title}: now ${durationWords(lengthOf(item, d.defaultMinutes))}.`
    case 'place':
      return `${item.title}: ${placeWords(item, d.zone)}.`
  }
}

export function placeWords(item: ClothItem, zone: string): string {
  const { place } = item
  switch (place.kind) {
    case 'timed':
      return `${instantDayWords(place.startMs, zone)}, ${clockWords(place.startMs, zone)}–${clockWords(place.endMs, zone)}`
    case 'day':
      return `${dayWords(place.date)}, no hour yet`
    case 'all-day':
      return `${dayWords(place.from)}, all day`
    case 'none':
      return 'on the shelf'
  }
}
