import { useQuery, useQueryCache } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api, Refused } from '../api/client.ts'
import { say } from './messages.ts'

/** What came to the person who is signed in since they last looked. */

/** Under the Cloth's key: it is asked for again when that changes. */
const KEY = ['cloth', 'new']
const load = () => answer(() => api.planning.new.$get())
export type NewItem = Awaited<ReturnType<typeof load>>['items'][number]

/** @param enabled asked for only then */
export function useNewItems(enabled: () => boolean = () => true) {
  const cache = useQueryCache()
  const query = useQuery({ key: KEY, query: load, enabled })
  const items = computed((): readonly NewItem[] => query.data.value?.items ?? [])
  /** All that is shown has been looked at; what comes meanwhile is new the next time. */
  async function saw(): Promise<void> {
    const atMs = Math.max(0, ...items.value.map(i => i.atMs))
    if (atMs === 0) return
    try {
      await answer(() => api.planning.new.seen.$post({ json: { atMs } }))
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      say({ text: `Not kept. ${error.message}`, tone: 'wrong' })
    }
    await cache.invalidateQueries({ key: KEY })
  }
  return { items, more: computed(() => query.data.value?.more ?? 0), saw }
}
