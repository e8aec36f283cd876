import { useMutation } from '@pinia/colada'
import { computed, ref } from 'vue'
import { Refused } from '../api/client.ts'

/** A mutation that may be refused: whether it is under way, and the reason if it failed. */
export function useAttempt() {
  const reason = ref('')
  const { mutateAsync, asyncStatus } = useMutation({ mutation: (work: () => Promise<unknown>) => work() })
  const busy = computed(() => asyncStatus.value === 'loading')

  /** Whether it succeeded. Throws what is no refusal. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    reason.value = ''
    try {
      await mutateAsync(work)
      return true
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      reason.value = error.message
      return false
    }
  }
  return { busy, reason, attempt }
}
