import { reactive } from 'vue'

/** What happened, said on the screen and to screen readers, with a way back where there is one. */
export interface Message {
  id: number
  text: string
  tone: 'plain' | 'wrong'
  undo?: () => void
}

const STAY_MS = 12_000
let last = 0

export const messages = reactive<Message[]>([])

export function say(given: { text: string; tone?: Message['tone']; undo?: () => void }): void {
  const message: Message = { id: ++last, tone: 'plain', ...given }
  messages.push(message)
  if (messages.length > 3) messages.shift()
  setTimeout(() => dismiss(message.id), STAY_MS)
}

export function dismiss(id: number): void {
  const at = messages.findIndex(m => m.id === id)
  if (at >= 0) messages.splice(at, 1)
}
