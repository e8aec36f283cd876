import { answer, api, Refused } from '../api/client.ts'
import { whenReached } from './unsent.ts'
import { say } from './messages.ts'

/** What there was no room for where it went. */
export const lostWords = (lost: readonly string[]): string =>
  lost.length === 0 ? '' : ` Not supported there: ${lost.join(' and ')}.`

const LOOK_AGAIN_MS = 400
const MOST_LOOKS = 60

/** Takes back what was made, as soon as its service has it. */
export async function takeBackMade(intent: string, title: string): Promise<void> {
  try {
    for (let n = 0; n < MOST_LOOKS; n++) {
      const param = { intent }
      const { onItsWay } = await whenReached(() =>
        answer(() => api.cloth.made[':intent']['take-back'].$post({ param })),
      )
      if (!onItsWay) return void say({ text: `${title}: taken back.` })
      await new Promise(done => setTimeout(done, LOOK_AGAIN_MS))
    }
    say({
      text: `${title}: its service has not taken it yet. It can be deleted once it is there.`,
      tone: 'wrong',
    })
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: `${title}: not taken back. ${error.message}`, tone: 'wrong' })
  }
}
