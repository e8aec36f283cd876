import { type Deciders, does, READ_ONLY, refuse, type Shows } from './edit-plan.ts'

/** Deleting, and what takes it back. */

export const decideRemoval = {
  delete({ task, event }) {
    // A deleted task takes its event along by the rule's own sentence.
    const owner = task ?? event
    return owner?.writable ? does({ do: 'restore' }, { remove: owner.id }) : refuse(READ_ONLY)
  },
  restore: () => refuse('It is still there.'),
  'series-back': () => refuse('It does not repeat.'),
} satisfies Partial<Deciders>

export const showRemoval = {
  delete: item => ({ ...item, cancelled: true, done: true, busy: false, pending: true }),
  restore: item => ({ ...item, cancelled: false, done: false, pending: true }),
  'series-back': item => item,
} satisfies Partial<Shows>
