import { openWaits } from '@loom/core/planning'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../api/client.ts'

/** What waits for what, as the person who is signed in sees it. */

/** Under the Cloth's key: it is asked for again when that changes. */
const load = () => answer(() => api.planning.waits.$get())

/** @param enabled asked for only then */
export function useWaitLines(enabled: () => boolean = () => true) {
  const cache = useQueryCache()
  const query = useQuery({ key: ['cloth', 'waits'], query: load, enabled })
  const of = (key: string) => query.data.value?.waits.find(w => w.key === key)?.for ?? []
  /** Of what is not done, as far as it is seen here. */
  const pairs = computed(() =>
    (query.data.value?.waits ?? []).flatMap(w =>
      w.for.flatMap(l => (l.done || l.key === null ? [] : [{ before: l.key, after: w.key, gap: l.gap }])),
    ),
  )
  /** Titles of what is not done of that. */
  const titlesOf = (key: string): string[] => of(key).flatMap(l => (l.done ? [] : [l.title]))
  /** Returns what it waited for before. Throws Refused. */
  async function put(
    key: string,
    wanted: { key: string; gap: number }[],
  ): Promise<{ key: string; gap: number }[]> {
    const { before } = await answer(() =>
      api.planning.waits[':key'].$put({ param: { key }, json: { for: wanted } }),
    )
    await cache.invalidateQueries({ key: ['cloth', 'waits'] })
    return before
  }
  return { of, pairs, titlesOf, put }
}

/** As the planner takes it. */
export function useWaits() {
  const query = useQuery({ key: ['cloth', 'waits'], query: load })
  const titleOf = (id: string): string | undefined =>
    query.data.value?.waits.flatMap(w => w.for).find(l => (l.key ?? '') === id)?.title
  const waits = computed(() => openWaits(query.data.value?.waits ?? []))
  const listed = computed(() => new Set(query.data.value?.listed))
  return { waits, listed, titleOf }
}
