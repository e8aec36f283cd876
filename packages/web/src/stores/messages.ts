import { defineStore } from 'pinia'
import { reactive, watch } from 'vue'
import { type BackStep, keepSteps, keptSteps } from './kept-steps.ts'
import { useLiveState } from './live-state.ts'

/** What happened, said on the screen and to screen readers, with a way back where there is one. */
export interface Message {
  id: number
  text: string
  tone: 'plain' | 'wrong'
  undo?: () => void
  /** The same as `undo`, for after a reload. */
  back?: BackStep
  act?: { name: string; run: () => void }
}

const STAY_MS = 12_000
const MOST_SHOWN = 3
const MOST_UNDOABLE = 50

type Said = Omit<Message, 'id' | 'tone'> & {
  tone?: Message['tone']
  /** Until it is dismissed. */
  stays?: boolean
}

export const useMessages = defineStore('messages', () => {
  const messages = reactive<Message[]>([])
  let last = 0
  const leaving = new Map<number, ReturnType<typeof setTimeout>>()
  const lasting = new Set<number>()
  /** What can be taken back, the latest last: also of messages that are gone from the screen. */
  const undoable: Message[] = []
  /** What this tab did before it was loaded again; `run` takes it back. */
  function restore(run: (back: BackStep) => Promise<void>): void {
    for (const { text, back } of keptSteps(Date.now()))
      undoable.push({ id: ++last, text, tone: 'plain', back, undo: () => void run(back) })
  }
  const keep = (): void => {
    const at = Date.now()
    keepSteps(undoable.flatMap(({ text, back }) => (back ? [{ text, back, at }] : [])))
  }

  /** Returns its id. */
  function say({ stays, ...rest }: Said): number {
    const message: Message = { id: ++last, tone: 'plain', ...rest }
    messages.push(message)
    if (message.undo) {
      undoable.push(message)
      if (undoable.length > MOST_UNDOABLE) undoable.shift()
      keep()
    }
    // What was said of an edit before is replaced; what asks for something, or went wrong, is not.
    const replaced = messages.filter(
      m => m.id !== message.id && m.tone === 'plain' && !m.act && !lasting.has(m.id),
    )
    const [oldest] = messages
    for (const { id } of replaced) dismiss(id)
    if (oldest && messages.length > MOST_SHOWN) dismiss(oldest.id)
    if (stays) lasting.add(message.id)
    else
      leaving.set(
        message.id,
        setTimeout(() => dismiss(message.id), STAY_MS),
      )
    return message.id
  }

  function dismiss(id: number): void {
    clearTimeout(leaving.get(id))
    leaving.delete(id)
    lasting.delete(id)
    const at = messages.findIndex(m => m.id === id)
    if (at >= 0) messages.splice(at, 1)
  }

  /** After a sign-out: the next person cannot undo the last one's edits. */
  function forgetUndo(): void {
    undoable.length = 0
    keep()
    for (const { id } of [...messages]) dismiss(id)
  }

  function takeBack({ id }: Message): void {
    const at = undoable.findIndex(m => m.id === id)
    const [message] = at < 0 ? [] : undoable.splice(at, 1)
    if (message) keep()
    dismiss(id)
    message?.undo?.()
  }

  /** Waits for edits under way: the last one may not have its message yet. */
  async function nothingUnderway(): Promise<void> {
    const live = useLiveState()
    if (live.editsUnderway === 0) return
    await new Promise<void>(done => {
      const stop = watch(
        () => live.editsUnderway,
        left => {
          if (left > 0) return
          stop()
          done()
        },
      )
    })
  }

  /** Takes back what was done last, and says what that was. */
  async function takeBackLatest(): Promise<void> {
    await nothingUnderway()
    const message = undoable.at(-1)
    if (!message) return void say({ text: 'There is nothing to take back.' })
    takeBack(message)
    say({ text: `Taking back: ${message.text}` })
  }
  return { messages, say, dismiss, restore, forgetUndo, takeBack, takeBackLatest }
})

/** Shows a message; callable outside components. */
export const say = (said: Said): number => useMessages().say(said)
