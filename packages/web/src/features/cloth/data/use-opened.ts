import type { ClothItem } from '@loom/core/view'
import { nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { answer, api, Refused } from '../../../api/client.ts'
import { say } from '../../../stores/messages.ts'
import type { Scene } from './use-scene.ts'

/** The item whose drawer is open. One that the address names, from a search say, is opened whether it is drawn or not. */
export function useOpened({ cloth, data }: Scene, focusOn: (key: string) => void) {
  const route = useRoute()
  const router = useRouter()
  const opened = ref<ClothItem | null>(null)

  function forget(): void {
    if (route.query.item === undefined) return
    const { item: _, ...rest } = route.query
    void router.replace({ query: rest })
  }

  let asking: string | null = null
  /** What the days that are shown do not hold: done long ago, put by, or of more tasks than the shelf has room for. */
  async function fetchItem(key: string): Promise<void> {
    if (asking === key) return
    asking = key
    try {
      const { item } = await answer(() => api.cloth[':key'].$get({ param: { key } }))
      if (route.query.item === key) opened.value = item
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      say({ text: error.message, tone: 'wrong' })
      if (route.query.item === key) forget()
    } finally {
      asking = null
    }
  }

  watch(
    () => [route.query.item, data.value] as const,
    ([key, days]) => {
      if (typeof key !== 'string' || !days || opened.value?.key === key) return
      const item = cloth.itemOf(key)
      if (item) opened.value = item
      else void fetchItem(key)
    },
    { immediate: true },
  )

  function openKey(key: string): void {
    const item = cloth.itemOf(key)
    if (item) opened.value = item
    else void router.replace({ query: { ...route.query, item: key } })
  }
  function closeDrawer(): void {
    const key = opened.value?.key
    opened.value = null
    forget()
    if (key) void nextTick(() => focusOn(key))
  }
  return { opened, openKey, closeDrawer }
}
