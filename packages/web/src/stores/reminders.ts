import { useQuery, useQueryCache } from '@pinia/colada'
import { useIntervalFn } from '@vueuse/core'
import { computed } from 'vue'
import { answer, api, Refused } from '../api/client.ts'
import { say } from './messages.ts'

/** What the person who is signed in was reminded of and is not done with. */

const KEY = ['reminders', 'given']
const load = () => answer(() => api.reminders.$get())
/** Whatever the stream tells, what is over is to go. */
const LOOK_MS = 60_000

export function useGivenReminders(enabled: () => boolean) {
  const cache = useQueryCache()
  const query = useQuery({ key: KEY, query: load, enabled })
  const given = computed(() => query.data.value?.given ?? [])
  useIntervalFn(() => void (given.value.length > 0 && query.refetch().catch(() => undefined)), LOOK_MS)

  /** Gone at once; a refusal brings back what is there. */
  async function without(ids: readonly string[], tell: () => Promise<unknown>): Promise<void> {
    cache.setQueryData(KEY, { given: given.value.filter(g => !ids.includes(g.id)) })
    try {
      await tell()
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      say({ text: error.message, tone: 'wrong' })
      await cache.invalidateQueries({ key: KEY })
    }
  }
  const done = (ids: string[]): Promise<void> =>
    without(ids, () => answer(() => api.reminders.done.$post({ json: { ids } })))
  const later = (id: string, againAt: number): Promise<void> =>
    without([id], () => answer(() => api.reminders[':id'].later.$post({ param: { id }, json: { againAt } })))
  return { given, done, later }
}
export type GivenReminder = ReturnType<typeof useGivenReminders>['given']['value'][number]
