import type { Edit } from './edit.ts'
import { type Deciders, type EditPlan, refuse, type Subject } from './edit-plan.ts'
import { decideEstimate } from './estimate-edits.ts'
import { decideOwnLayer } from './own-layer-edits.ts'
import { decideRemoval } from './removal-edits.ts'
import { decideSaid } from './said-edits.ts'
import { decideStatus } from './status-edits.ts'
import { decideTime } from './time-edits.ts'

const DECIDE: Deciders = {
  ...decideStatus,
  ...decideSaid,
  ...decideTime,
  ...decideEstimate,
  ...decideOwnLayer,
  ...decideRemoval,
}

/** Edits that concern a series as a whole. */
const OF_THE_WHOLE = new Set<Edit['do']>(['leave-out', 'kind', 'keep-private'])

/** Decides which item an edit is written to. Rules carry it to the counterpart. */
export function decideEdit(subject: Subject, edit: Edit): EditPlan {
  if (subject.event?.item.recurring && !OF_THE_WHOLE.has(edit.do))
    return refuse('It repeats. Say which of its dates you mean.')
  return (DECIDE[edit.do] as Deciders[Edit['do']])(subject, edit as never)
}
