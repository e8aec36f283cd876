import { Refused } from '../api/client.ts'
import { useMessages } from './messages.ts'

/** Keeps requests while the server cannot be reached, and sends them when it can. */

const AGAIN_MS = 1500
let waiting = 0

function tell(): void {
  const { messages, dismiss, say } = useMessages()
  const known = messages.find(m => m.id === told)
  if (known) dismiss(known.id)
  if (waiting === 0) return
  told = say({
    text: `No connection. ${waiting === 1 ? 'One change is' : `${waiting} changes are`} kept here and sent when it is back.`,
    tone: 'wrong',
    stays: true,
  })
}
let told = -1

export async function whenReached<T>(act: () => Promise<T>): Promise<T> {
  let counted = false
  for (;;) {
    try {
      const done = await act()
      if (counted) waiting--
      if (counted) tell()
      return done
    } catch (error) {
      if (!(error instanceof Refused) || error.status !== 0) {
        if (counted) waiting--
        if (counted) tell()
        throw error
      }
      if (!counted) {
        counted = true
        waiting++
        tell()
      }
      await new Promise(resolve => setTimeout(resolve, AGAIN_MS))
    }
  }
}
