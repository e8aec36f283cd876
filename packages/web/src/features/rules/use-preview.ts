import type { RuleSettings } from '@loom/core/view'
import { ref, watch } from 'vue'
import { answer, api, Refused } from '../../api/client.ts'

export interface Draft {
  id: string | null
  a: string
  b: string
  settings: RuleSettings
}

const ask = (draft: Draft) => answer(() => api.rules.preview.$post({ json: draft }))
export type Preview = Awaited<ReturnType<typeof ask>>

const SETTLE_MS = 200

/** What the draft would do, asked of the server's planner as one edits; only the latest answer counts. */
export function usePreview(draft: () => Draft | null) {
  const preview = ref<Preview | null>(null)
  const busy = ref(false)
  const trouble = ref<string | null>(null)
  let asked = 0
  let timer = 0

  async function renew(): Promise<void> {
    const given = draft()
    const mine = ++asked
    if (!given) {
      preview.value = null
      return
    }
    busy.value = true
    try {
      const result = await ask(given)
      if (mine !== asked) return
      preview.value = result
      trouble.value = null
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      if (mine === asked) trouble.value = error.message
    } finally {
      if (mine === asked) busy.value = false
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
  return { preview, busy, trouble, renew }
}
