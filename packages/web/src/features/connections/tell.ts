import { Refused } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'

/** Waits for work and says how it went. Whether it succeeded. */
export async function tell(work: Promise<unknown>, done: string): Promise<boolean> {
  try {
    await work
    if (done) say({ text: done })
    return true
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: error.message, tone: 'wrong' })
    return false
  }
}
