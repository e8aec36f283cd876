import type { Item } from '../../items/items.ts'
import { partsIn, partsOf } from '../lenses/checklist.ts'
import { sameValue } from '../lenses/index.ts'
import type { BothSides, Mirror, Tie } from '../model/types.ts'

/** The list of sub-tasks in an event's notes: what is written there, and what was ticked. */
export interface Checklist {
  /** The parts as the notes are to say; null when they say so already. */
  write: { title: string; done: boolean }[] | null
  /** Children whose box was ticked or cleared in the notes. */
  ticked: { child: Mirror; done: boolean }[]
  /**
   * What both sides should agree on. A box ticked in the notes counts as before until its sub-task is completed
   * too.
   */
  base: BothSides
}

export function mergeChecklist(tie: Tie, children: readonly Mirror[], event: Item): Checklist {
  const tasks = children.filter(c => c.presence === 'present')
  const now = partsOf(tasks.flatMap(c => (c.item.kind === 'task' ? [c.item] : [])))
  const shown = partsIn(event.description)
  const was = (tie.base.subtasks?.b ?? []) as typeof shown
  const ticked: Checklist['ticked'] = []
  const after = now.map((part, i) => {
    const [there, before] = [shown, was].map(list => list.find(p => p.title === part.title))
    const child = tasks[i]
    if (!there || !before || !child || there.done === before.done || there.done === part.done) return part
    ticked.push({ child, done: there.done })
    return { ...part, done: there.done }
  })
  // Lines written into the list by hand stay.
  const strangers = shown.filter(p => ![...was, ...after].some(q => q.title === p.title))
  const want = [...after, ...strangers]
  const asWas = (part: (typeof want)[number]): typeof part =>
    ticked.some((t, i) => i >= 0 && t.child.item.summary === part.title)
      ? { ...part, done: !part.done }
      : part
  return { write: sameValue(want, shown) ? null : want, ticked, base: { a: after, b: want.map(asWas) } }
}
