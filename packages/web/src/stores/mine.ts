import { type PersonSettings, plainSettings } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import { computed, type ComputedRef, watchEffect } from 'vue'
import { answer, api } from '../api/client.ts'
import { weekStart } from './week-start.ts'

/** The settings of the person who is signed in. */

const load = () => answer(() => api.me.$get())
export type Mine = Awaited<ReturnType<typeof load>>

export function useMine(): {
  me: ComputedRef<Mine | undefined>
  settings: ComputedRef<PersonSettings>
  change: (settings: Partial<PersonSettings>, zone?: string) => Promise<void>
} {
  const cache = useQueryCache()
  const query = useQuery({ key: ['me'], query: load })
  // Under way while the screen is still being drawn; by itself it would be asked for afterwards.
  void query.refresh()
  watchEffect(() => {
    if (query.data.value) weekStart.value = query.data.value.settings.weekStart
  })
  return {
    me: computed(() => query.data.value),
    settings: computed(() => query.data.value?.settings ?? plainSettings),
    async change(settings, zone) {
      await answer(() => api.me.$put({ json: { settings, ...(zone && { zone }) } }))
      await cache.invalidateQueries({ key: ['me'] })
      await cache.invalidateQueries({ key: ['cloth'] })
    },
  }
}
