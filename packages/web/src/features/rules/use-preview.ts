import type { RuleSettings } from '@loom/core/view'
import { onBeforeUnmount, ref, watch } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'

export interface Draft {
  id: string | null
  name: string | null
  a: string
  b: string
  settings: RuleSettings
}

const ask = (draft: Draft, signal?: AbortSignal) =>
  answer(() => api.rules.preview.$post({ json: draft }, { init: { ...(signal && { signal }) } }))
export type Preview = Awaited<ReturnType<typeof ask>>

const SETTLE_MS = 200

/** What the draft would do, asked of the server's planner as one edits; only the latest answer counts. */
export function usePreview(draft: () => Draft | null) {
  const preview = ref<Preview | null>(null)
  const busy = ref(false)
  const trouble = ref<string | null>(null)
  let asking: AbortController | null = null
  let timer = 0

  /** Stops what is being worked out; what is shown stays. */
  function cancel(): void {
    asking?.abort()
    asking = null
    busy.value = false
  }

  async function renew(): Promise<void> {
    cancel()
    const given = draft()
    if (!given) {
      preview.value = null
      return
    }
    const mine = new AbortController()
    asking = mine
    busy.value = true
    try {
      const result = await ask(given, mine.signal)
      if (asking !== mine) return
      preview.value = result
      trouble.value = null
    } catch (error) {
      if (mine.signal.aborted) return
      if (!(error instanceof Refused)) throw error
      if (asking === mine) trouble.value = error.message
    } finally {
      if (asking === mine) busy.value = false
    }
  }
  watch(
    () => JSON.stringify(draft()),
    () => {
      clearTimeout(timer)
      timer = window.setTimeout(() => void renew(), SETTLE_MS)
    },
    { immediate: true },
  )
  onBeforeUnmount(() => {
    clearTimeout(timer)
    cancel()
  })
  return { preview, busy, trouble, renew, cancel }
}
