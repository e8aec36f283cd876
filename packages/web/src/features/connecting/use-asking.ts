import { onBeforeUnmount, ref, watch, type Ref } from 'vue'
import { Refused } from '../../api/client.ts'

const SETTLE_MS = 200
const AGAIN_MS = 600

/**
 * Asks again whenever the question changes, and while the service is still being read. Only the latest answer
 * counts.
 */
export function useAsking<Q, A extends { reading: boolean }>(
  question: () => Q,
  ask: (question: Q) => Promise<A>,
): { answer: Ref<A | null>; trouble: Ref<string> } {
  const answer = ref<A | null>(null) as Ref<A | null>
  const trouble = ref('')
  let asked = 0
  let timer = 0

  async function renew(): Promise<void> {
    const mine = ++asked
    try {
      const found = await ask(question())
      if (mine !== asked) return
      answer.value = found
      trouble.value = ''
      if (found.reading) timer = window.setTimeout(() => void renew(), AGAIN_MS)
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      if (mine === asked) trouble.value = error.message
    }
  }
  watch(
    () => JSON.stringify(question()),
    () => {
      clearTimeout(timer)
      timer = window.setTimeout(() => void renew(), SETTLE_MS)
    },
    { immediate: true },
  )
  onBeforeUnmount(() => {
    asked++
    clearTimeout(timer)
  })
  return { answer, trouble }
}
