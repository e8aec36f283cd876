import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'

/** What is asked of me, and what I asked. */
export function useRequests() {
  const query = useQuery({ key: ['team', 'requests'], query: () => answer(() => api.requests.$get()) })
  return {
    forMe: computed(() => query.data.value?.forMe ?? []),
    mine: computed(() => query.data.value?.mine ?? []),
    loaded: computed(() => query.data.value !== undefined),
    trouble: computed(() => query.error.value?.message ?? null),
  }
}
