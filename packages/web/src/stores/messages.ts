import { reactive, watch } from 'vue'
import { editsUnderway } from './live-state.ts'

/** What happened, said on the screen and to screen readers, with a way back where there is one. */
export interface Message {
  id: number
  text: string
  tone: 'plain' | 'wrong'
  undo?: () => void
  act?: { name: string; run: () => void }
}

const STAY_MS = 12_000
let last = 0

export const messages = reactive<Message[]>([])

const leaving = new Map<number, ReturnType<typeof setTimeout>>()

/** What can be taken back, the latest last: also of messages that are gone from the screen. */
const undoable: Message[] = []
const MOST_UNDOABLE = 50

/** Returns its id. `stays`: until it is dismissed; `act`: one step besides undoing. */
export function say(
  given: Omit<Message, 'id' | 'tone'> & { tone?: Message['tone']; stays?: boolean },
): number {
  const { stays, ...rest } = given
  const message: Message = { id: ++last, tone: 'plain', ...rest }
  messages.push(message)
  if (message.undo) undoable.push(message)
  if (undoable.length > MOST_UNDOABLE) undoable.shift()
  const [oldest] = messages
  if (oldest && messages.length > 3) dismiss(oldest.id)
  if (!stays)
    leaving.set(
      message.id,
      setTimeout(() => dismiss(message.id), STAY_MS),
    )
  return message.id
}

export function dismiss(id: number): void {
  clearTimeout(leaving.get(id))
  leaving.delete(id)
  const at = messages.findIndex(m => m.id === id)
  if (at >= 0) messages.splice(at, 1)
}

/** Whoever signs in next takes back nothing of what another did. */
export function forgetUndo(): void {
  undoable.length = 0
  for (const { id } of [...messages]) dismiss(id)
}

export function takeBack({ id }: Message): void {
  const at = undoable.findIndex(m => m.id === id)
  const [message] = at < 0 ? [] : undoable.splice(at, 1)
  dismiss(id)
  message?.undo?.()
}

/** What was done last may be on its way still: then it is not said yet, and what was before it is not the last. */
async function nothingUnderway(): Promise<void> {
  if (editsUnderway.value === 0) return
  await new Promise<void>(done => {
    const stop = watch(editsUnderway, left => {
      if (left > 0) return
      stop()
      done()
    })
  })
}

/** Takes back what was done last, and says what that was. */
export async function takeBackLatest(): Promise<void> {
  await nothingUnderway()
  const message = undoable.at(-1)
  if (!message) return void say({ text: 'There is nothing to take back.' })
  takeBack(message)
  say({ text: `Taking back: ${message.text}` })
}
