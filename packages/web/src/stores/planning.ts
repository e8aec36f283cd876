import { type Planning, plainPlanning } from '@loom/core/planning'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api, Refused } from '../api/client.ts'
import { say } from './messages.ts'

/** How the person who is signed in plans: the sentence of a draft, work windows, regulars. */

/** Under that of the views: work windows may follow one. */
const KEY = ['views', 'planning']
const load = () => answer(() => api.planning.$get())

let underway: Promise<void> = Promise.resolve()

/** @param enabled asked for only then */
export function usePlanning(enabled: () => boolean = () => true) {
  const cache = useQueryCache()
  const query = useQuery({ key: KEY, query: load, enabled })
  const planning = computed((): Planning => query.data.value?.planning ?? plainPlanning)

  /** Throws Refused. */
  async function change(patch: Partial<Planning>): Promise<void> {
    const next = { ...planning.value, ...patch }
    // Shown at once; a refusal brings back what is there.
    cache.setQueryData(KEY, { version: query.data.value?.version ?? 0, planning: next })
    const send = async (): Promise<void> => {
      const version = query.data.value?.version ?? 0
      const put = await answer(() => api.planning.$put({ json: { version, planning: next } }))
      cache.setQueryData(KEY, { version: put.version, planning: planning.value })
    }
    // One after the other: each is upon the version that the one before made.
    const mine = (underway = underway.catch(() => undefined).then(send))
    try {
      await mine
    } catch (error) {
      await cache.invalidateQueries({ key: KEY })
      throw error
    }
  }
  /** With a way back. */
  async function changeAndSay(patch: Partial<Planning>, text: string): Promise<void> {
    const { windows, regulars, travel, showsWays } = planning.value
    await change(patch)
    say({ text, undo: () => void changeOrSay({ windows, regulars, travel, showsWays }) })
  }
  /** Where nothing beside it could say why it was refused. */
  async function changeOrSay(patch: Partial<Planning>): Promise<void> {
    try {
      await change(patch)
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      say({ text: `Not changed. ${error.message}`, tone: 'wrong' })
    }
  }
  return {
    planning,
    isThere: computed(() => query.data.value !== undefined),
    change,
    changeAndSay,
    changeOrSay,
  }
}
