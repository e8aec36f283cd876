import { useQuery, useQueryCache } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api, Refused } from '../api/client.ts'
import { say } from './messages.ts'

/** What was moved by itself in the work windows of the person who is signed in. */

/** Under the Cloth's key: it is asked for again when that changes. */
const KEY = ['cloth', 'kept-up']
const load = () => answer(() => api.planning['kept-up'].$get())
export type KeptPass = Awaited<ReturnType<typeof load>>['passes'][number]

/** @param enabled asked for only then */
export function useKeptUp(enabled: () => boolean = () => true) {
  const cache = useQueryCache()
  const query = useQuery({ key: KEY, query: load, enabled })
  const passes = computed(() => query.data.value?.passes ?? [])

  async function saw(): Promise<void> {
    await answer(() => api.planning['kept-up'].seen.$post())
    await cache.invalidateQueries({ key: KEY })
  }
  /** Says what came of it. */
  async function undo(id: string): Promise<void> {
    try {
      const { back, stays } = await answer(() => api.planning['kept-up'][':id'].undo.$post({ param: { id } }))
      const kept = stays.map(s => `${s.title}: ${s.reason}`).join(' ')
      const done = back.length === 0 ? '' : `${back.join(', ')}: back where it was, and it stays there. `
      say({ text: `${done}${kept}`.trim() || 'Nothing of it had been moved.' })
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      say({ text: `Not put back. ${error.message}`, tone: 'wrong' })
    }
    await cache.invalidateQueries({ key: ['cloth'] })
  }
  return { passes, saw, undo }
}
