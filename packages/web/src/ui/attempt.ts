import { ref } from 'vue'
import { Refused } from '../api/client.ts'

/** Work that may be refused: whether it is under way, and why it did not succeed. What was typed stays. */
export function useAttempt() {
  const busy = ref(false)
  const reason = ref('')

  /** Whether it succeeded. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    busy.value = true
    reason.value = ''
    try {
      await work()
      return true
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      reason.value = error.message
      return false
    } finally {
      busy.value = false
    }
  }
  return { busy, reason, attempt }
}
