import type { Task } from '../../items/items.ts'

/**
 * The sub-tasks of a task, written under its event's notes, one a line, to be ticked there:
 *
 *   Bring the long ladder.
 *
 *   Parts:
 *   ☐ Unscrew the cover
 *   ☑ Order the seal
 */
const HEAD = 'Parts:'
const LINE = /^(☐|☑) (.*)$/

export interface Part {
  title: string
  done: boolean
}

/** Where the list begins in a text; its whole length when there is none. */
function beginOf(text: string): number {
  const at = text.lastIndexOf(HEAD)
  if (at < 0 || (at > 0 && text[at - 1] !== '\n')) return text.length
  const lines = text
    .slice(at + HEAD.length)
    .split(/\r?\n/)
    .slice(1)
  if (lines.length === 0 || !lines.some(l => LINE.test(l))) return text.length
  return text.slice(0, at).endsWith('\n\n') ? at - 2 : at
}

export const withoutChecklist = (text: string): string => text.slice(0, beginOf(text))
export const checklistIn = (text: string): string => text.slice(beginOf(text))

/** The sub-tasks listed in an event's notes. Lines between them that are no sub-task are kept. */
export function partsIn(text: string): Part[] {
  return checklistIn(text)
    .split(/\r?\n/)
    .flatMap(line => {
      const m = LINE.exec(line)
      return m ? [{ title: m[2] ?? '', done: m[1] === '☑' }] : []
    })
}

export const partsOf = (children: readonly Task[]): Part[] =>
  children
    .filter(c => c.status !== 'cancelled')
    .map(c => ({ title: c.summary.replace(/\s+/g, ' ').trim(), done: c.status === 'completed' }))

/** `text` with the list in it replaced. */
export function withChecklist(text: string, parts: readonly Part[]): string {
  const notes = withoutChecklist(text)
  if (parts.length === 0) return notes
  const lines = parts.map(p => `${p.done ? '☑' : '☐'} ${p.title}`)
  return `${notes}${notes === '' ? '' : '\n\n'}${HEAD}\n${lines.join('\n')}`
}
