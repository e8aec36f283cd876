import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../../api/client.ts'

const load = () => answer(() => api.rules.$get())
export type RuleView = Awaited<ReturnType<typeof load>>['rules'][number]

export function useRules() {
  const query = useQuery({ key: ['rules'], query: load })
  return {
    rules: computed(() => query.data.value?.rules ?? []),
    /** For coordinators: how many there are besides, whose page is for who may change both their sides. */
    others: computed(() => query.data.value?.others.length ?? 0),
    /** Unconfirmed creations, of rules and by hand. */
    unconfirmed: computed(() => query.data.value?.unconfirmed ?? 0),
    now: computed(() => query.data.value?.now ?? Date.now()),
    loaded: computed(() => query.data.value !== undefined),
    trouble: computed(() => query.error.value?.message ?? null),
  }
}
