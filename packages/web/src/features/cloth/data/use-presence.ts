import { useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import { type ComputedRef, onBeforeUnmount, watch } from 'vue'
import { answer, api, Refused } from '../../../api/client.ts'
import { newId } from '../../../api/new-id.ts'
import { usePresent } from '../../../stores/present.ts'

const BEAT_MS = 20_000
/** Whoever leafs through the weeks is nowhere until they stop. */
const SETTLE_MS = 600

/** Says which days this page shows, as long as somebody looks at it, and who else has some of them open. */
export function usePresence(dates: ComputedRef<readonly string[]>): void {
  const present = usePresent()
  const page = newId()
  const visibility = useDocumentVisibility()
  let timer = 0

  async function beat(): Promise<void> {
    const [from, to] = [dates.value[0], dates.value.at(-1)]
    if (from === undefined || to === undefined || visibility.value === 'hidden') return
    try {
      const told = await answer(() => api.presence[':page'].$put({ param: { page }, json: { from, to } }))
      present.others = told.others
    } catch (error) {
      // Who is there is nothing to be told about as missing.
      if (!(error instanceof Refused)) throw error
      present.others = []
    }
  }
  useIntervalFn(() => void beat(), BEAT_MS)
  watch(
    [() => dates.value[0], () => dates.value.at(-1), visibility],
    () => {
      window.clearTimeout(timer)
      timer = window.setTimeout(() => void beat(), SETTLE_MS)
    },
    { immediate: true },
  )
  onBeforeUnmount(() => {
    window.clearTimeout(timer)
    present.others = []
    // If it does not arrive, the page is forgotten a minute later.
    void answer(() => api.presence[':page'].$delete({ param: { page } })).catch(() => undefined)
  })
}
