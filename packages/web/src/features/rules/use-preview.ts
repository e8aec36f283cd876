import type { RuleSettings } from '@loom/core/view'
import { onBeforeUnmount, ref, watch } from 'vue'
import { newId } from '../../api/new-id.ts'
import { answer, api, Refused } from '../../api/client.ts'

export interface Draft {
  id: string | null
  name: string | null
  a: string
  b: string
  settings: RuleSettings
}

const ask = (draft: Draft, watch: string, signal: AbortSignal) =>
  answer(() => api.rules.preview.$post({ json: draft, query: { watch } }, { init: { signal } }))
export type Preview = Awaited<ReturnType<typeof ask>>

const SETTLE_MS = 200
/** How often one that takes its time is asked how far it has come. */
const LOOK_MS = 400

/** What the draft would do, asked of the server's planner as one edits; only the latest answer counts. */
export function usePreview(draft: () => Draft | null) {
  const preview = ref<Preview | null>(null)
  const busy = ref(false)
  const trouble = ref<string | null>(null)
  const progress = ref<{ read: number; of: number } | null>(null)
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
    progress.value = null
    const given = draft()
    if (!given) {
      preview.value = null
      return
    }
    const mine = new AbortController()
    asking = mine
    busy.value = true
    const watch = newId()
    const look = window.setInterval(() => void follow(watch, mine), LOOK_MS)
    try {
      const result = await ask(given, watch, mine.signal)
      if (asking !== mine) return
      preview.value = result
      trouble.value = null
    } catch (error) {
      if (mine.signal.aborted) return
      if (!(error instanceof Refused)) throw error
      if (asking === mine) trouble.value = error.message
    } finally {
      clearInterval(look)
      if (asking === mine) busy.value = false
    }
  }
  /** Nothing depends on it: a look that comes to nothing shows nothing. */
  async function follow(watch: string, mine: AbortController): Promise<void> {
    const found = await answer(() =>
      api.rules.preview[':watch'].$get({ param: { watch } }, { init: { signal: mine.signal } }),
    ).catch(() => null)
    if (asking === mine && found?.progress) progress.value = found.progress
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
  return { preview, busy, progress, trouble, renew, cancel }
}
