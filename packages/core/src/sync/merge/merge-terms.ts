import type { PastWrite } from './alternation.ts'
import type { Field } from '../model/settings.ts'
import type { Answer, Side } from '../model/types.ts'

export interface MergeTerms {
  /** What a person answered to conflicts of this pair. */
  answers?: Partial<Record<Field, Answer>> | undefined
  /** The rule was edited since the last agreement. It treats these fields differently now, so they are written. */
  resettle?: ReadonlySet<Field>
  /** A person said that what a service went back to counts as an edit. */
  olderStands?: boolean
  /** What rules wrote to either side lately, newest first. */
  past?: Record<Side, readonly PastWrite[]>
}
