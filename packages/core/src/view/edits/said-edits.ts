import { invitedWords } from '../cloth-item.ts'
import { dueFacts, shortNotes, statusFacts, titleOr } from '../item-facts.ts'
import type { Edit, Said } from './edit.ts'
import {
  type Deciders,
  does,
  type EditPlan,
  READ_ONLY,
  refuse,
  type Shows,
  type Subject,
} from './edit-plan.ts'
import { SAID_WORDS } from './said-words.ts'
import { withStatus } from './status-edits.ts'

/** What an item says of itself: its title, notes, place, due date, and whom it is assigned to. */

/** Fields that only one kind has are written to that one; what both have, to the task, which leads, but the place. */
const EVENT_FIRST = new Set<keyof Said>(['location', 'transparency', 'class'])
const EVENT_ONLY = new Set<keyof Said>(['transparency', 'class'])
/** An event’s STATUS says something else (RFC 5545 §3.8.1.11). */
const TASK_ONLY = new Set<keyof Said>(['status'])

/** What whoever invites says of it. */
const THEIRS = new Set<keyof Said>(['summary', 'description', 'location', 'url', 'status'])

function say({ item, task, event }: Subject, said: Said): EditPlan {
  const names = Object.keys(said) as (keyof Said)[]
  const toEvent = (event !== null && names.every(n => EVENT_FIRST.has(n))) || !task
  const owner = toEvent ? event : task
  if (!owner || (owner === task && names.some(n => EVENT_ONLY.has(n))))
    return refuse('A task has no such field.')
  if (!owner.writable) return refuse(item.fixedBecause ?? READ_ONLY)
  if (owner.invitedBy !== undefined && names.some(n => THEIRS.has(n)))
    return refuse(invitedWords(owner.invitedBy))
  if (
    owner.item.kind === 'event' &&
    owner.item.attendees > 0 &&
    !owner.tellsGuests &&
    names.includes('summary')
  )
    return refuse('It has guests. Rename it in its own calendar, so that they are told.')
  const present = owner.item as unknown as Record<string, unknown>
  const before = Object.fromEntries(
    names.map(n => [n, n === 'location' ? (owner.item.location ?? '') : present[n]]),
  ) as Said
  if (owner.item.kind === 'event' && names.some(n => !(n in owner.item) || TASK_ONLY.has(n)))
    return refuse('An event has no such field.')
  const unsupported = names.filter(n => owner.unsupported?.has(n))
  if (unsupported.length > 0)
    return refuse(
      `Its service does not support ${unsupported.map(n => SAID_WORDS[n]).join(' and ')}, or does not allow changing that from here.`,
    )
  const inverse: Edit = {
    do: 'say',
    said: 'summary' in before ? { ...before, summary: before.summary || 'Untitled' } : before,
  }
  return does(inverse, { write: { mirrorId: owner.id, patch: said } })
}

function give({ task }: Subject, to: string | null): EditPlan {
  if (!task) return refuse('Only a task can be assigned.')
  if (!task.writable) return refuse('Its list can only be read.')
  const account = to === null ? null : task.accounts?.[to]
  if (account === undefined)
    return refuse('They have no account at its service, or nobody said which one is theirs.')
  const before: Edit = { do: 'say', said: { assignees: task.item.assignees } }
  const assignees = account === null ? [] : [account]
  return does(before, { write: { mirrorId: task.id, patch: { assignees } } })
}

function invite({ event }: Subject, { add, drop, organizer }: Extract<Edit, { do: 'invite' }>): EditPlan {
  if (!event) return refuse('Only to an event somebody can be invited.')
  if (!event.writable) return refuse(READ_ONLY)
  if (event.item.recurring && !event.tellsGuests)
    return refuse('It repeats. Change its guests in its own calendar.')
  if (!organizer || (add.length === 0 && drop.length === 0)) return refuse('Say whom.')
  const guests = { add, drop, organizer }
  return does({ do: 'invite', add: drop, drop: add }, { write: { mirrorId: event.id, patch: { guests } } })
}

function noteAnswers({ event }: Subject, { answers }: Extract<Edit, { do: 'note-answers' }>): EditPlan {
  if (!event) return refuse('Only to an event somebody can be invited.')
  if (!event.writable) return refuse(READ_ONLY)
  const known = new Map(event.item.invited?.guests.map(g => [g.email, g.answer]))
  const fresh = answers.filter(a => known.has(a.email) && known.get(a.email) !== a.answer)
  if (fresh.length === 0) return refuse('That is what is known already.')
  const before = fresh.map(a => ({ email: a.email, answer: known.get(a.email) ?? ('none' as const) }))
  const guests = { add: [], drop: [], answers: fresh }
  return does({ do: 'note-answers', answers: before }, { write: { mirrorId: event.id, patch: { guests } } })
}

export const decideSaid = {
  invite,
  'note-answers': noteAnswers,
  rename: (s, { title }) => say(s, { summary: title }),
  say: (s, { said }) => say(s, said),
  give: (s, { to }) => give(s, to),
} satisfies Partial<Deciders>

export const showSaid = {
  invite: item => ({ ...item, pending: true }),
  'note-answers': item => ({ ...item, pending: true }),
  rename: (item, { title }) => ({ ...item, title, pending: true }),
  say: (item, { said }, viewer) => ({
    ...(said.status ? withStatus(item, said.status, viewer) : item),
    ...(said.summary !== undefined && { title: titleOr(said.summary) }),
    ...(said.description !== undefined && { notes: shortNotes(said.description) }),
    ...(said.location !== undefined && { location: said.location }),
    ...(said.priority !== undefined && { priority: said.priority }),
    ...(said.categories && { categories: said.categories }),
    ...(said.transparency && item.status === null && { busy: said.transparency === 'opaque' }),
    ...(said.due !== undefined &&
      dueFacts(said.due, said.status ? statusFacts(said.status).done : item.done, viewer)),
    pending: true,
  }),
  give: (item, { to }) => ({ ...item, people: to === null ? [] : [to], pending: true }),
} satisfies Partial<Shows>
