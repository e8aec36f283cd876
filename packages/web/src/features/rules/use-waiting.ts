import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'

const load = () => answer(() => api.waiting.conflicts.$get())
export type Conflict = Awaited<ReturnType<typeof load>>['conflicts'][number]
export type Unconfirmed = Awaited<ReturnType<typeof load>>['unconfirmed'][number]

/** What waits for a person to decide. */
export function useWaiting() {
  const query = useQuery({ key: ['rules', 'conflicts'], query: load })
  return {
    conflicts: computed(() => query.data.value?.conflicts ?? []),
    unconfirmed: computed(() => query.data.value?.unconfirmed ?? []),
    loaded: computed(() => query.data.value !== undefined),
    trouble: computed(() => query.error.value?.message ?? null),
  }
}
