import type { When } from '../time/when.ts'

/** What a task was like when somebody asked that it be given to another. */
export interface Frozen {
  title: string
  due: When | null
  /** Its estimate. */
  minutes: number | null
}

const dueText = (due: When | null): string => JSON.stringify(due)

/** Why a request about a task can no longer be accepted; null while it can. */
export function lapsedBecause(then: Frozen, now: Frozen | null): string | null {
  if (!now) return 'It is no longer there.'
  const changed = [
    ...(then.title === now.title ? [] : ['what it is called']),
    ...(dueText(then.due) === dueText(now.due) ? [] : ['when it is due']),
    ...(then.minutes === now.minutes ? [] : ['how long it takes']),
  ]
  if (changed.length === 0) return null
  const last = changed.pop() ?? ''
  const named = changed.length > 0 ? `${changed.join(', ')} and ${last}` : last
  return `Since then, ${named} changed. It has to be asked anew.`
}
