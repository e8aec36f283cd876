import { z } from 'zod'
import { type Item, TaskStatus } from '../items/items.ts'
import { addDays, dayAt, dayOf, type When } from '../time/when.ts'

/**
 * The one filter language: a list of clauses that must all hold. Each clause reads as a part of a sentence, so a
 * filter can be shown and built in words. A filter admits items; it never removes any.
 */
const Texts = z.array(z.string().trim().min(1).max(200)).min(1).max(100)

export const Clause = z.discriminatedUnion('field', [
  z.object({ field: z.literal('status'), is: z.array(TaskStatus).min(1) }),
  /** The service's own words for a status. */
  z.object({ field: z.literal('serviceStatus'), is: Texts }),
  /** People as their service tells them apart; `me` is the person signed in, `nobody` means unassigned. */
  z.object({ field: z.literal('assignee'), is: Texts }),
  z.object({ field: z.literal('words'), of: Texts, without: z.boolean() }),
  z.object({ field: z.literal('category'), is: Texts }),
  /** 1 highest, 9 lowest (RFC 5545 §3.8.1.9). */
  z.object({ field: z.literal('priority'), atLeast: z.number().int().min(1).max(9) }),
  /** Lists or calendars, and members of the team: for views, which know them. */
  z.object({ field: z.literal('list'), is: Texts }),
  z.object({ field: z.literal('member'), is: Texts }),
  /** Tasks due within so many days; -1 for those that are late, null for those that are not due at all. */
  z.object({ field: z.literal('due'), within: z.number().int().min(-1).max(3650).nullable() }),
  /** Whose last day is not longer ago than so many days; what has no date stays in. */
  z.object({ field: z.literal('since'), days: z.number().int().min(0).max(3650) }),
])
export type Clause = z.infer<typeof Clause>

export const Filter = z.array(Clause).max(20)
export type Filter = z.infer<typeof Filter>

export interface FilterTerms {
  /** Who is signed in at the service, by its own id; null where it does not say. */
  me: string | null
  /** Epoch ms. */
  now: number
  zone: string
  /** Where the item is and whom it concerns, where that is known; clauses about it hold where it is not. */
  about?: { collections: readonly string[]; members: readonly string[] }
}

const fold = (text: string): string => text.normalize('NFKC').toLocaleLowerCase('en')

/** The last day that matters for an item: until when it is to be done, is planned, or was completed. */
function lastDayOf(item: Item, zone: string): string | null {
  const days: string[] = []
  const add = (when: When | null): void => {
    if (when) days.push(dayOf(when, zone))
  }
  if (item.kind === 'task') {
    add(item.start)
    add(item.due)
    if (item.completed && !Number.isNaN(Date.parse(item.completed))) days.push(item.completed.slice(0, 10))
  } else {
    // A series goes on beyond its first date; the unrolling decides how far.
    if (item.recurring) return null
    const { anchor, minutes } = item.time
    const first = dayOf(anchor, zone)
    days.push(addDays(first, Math.floor(minutes / 1440)))
  }
  return days.sort().at(-1) ?? null
}

/** Whether one clause holds; a clause about something the kind of item does not have holds. */
export function clauseAdmits(clause: Clause, item: Item, terms: FilterTerms): boolean {
  switch (clause.field) {
    case 'status':
      return item.kind !== 'task' || clause.is.includes(item.status)
    case 'serviceStatus':
      return item.kind !== 'task' || clause.is.includes(item.serviceStatus)
    case 'assignee':
      if (item.kind !== 'task') return true
      return clause.is.some(who =>
        who === 'nobody'
          ? item.assignees.length === 0
          : item.assignees.includes(who === 'me' ? (terms.me ?? '') : who),
      )
    case 'words': {
      const text = fold(`${item.summary}\n${item.description}`)
      return clause.of.some(w => text.includes(fold(w))) !== clause.without
    }
    case 'category': {
      const wanted = new Set(clause.is.map(fold))
      return item.categories.some(c => wanted.has(fold(c)))
    }
    case 'priority':
      return item.kind !== 'task' || (item.priority > 0 && item.priority <= clause.atLeast)
    case 'list':
      return !terms.about || terms.about.collections.some(c => clause.is.includes(c))
    case 'member':
      return !terms.about || terms.about.members.some(m => clause.is.includes(m))
    case 'due': {
      if (item.kind !== 'task') return true
      const due = item.due ? dayOf(item.due, terms.zone) : null
      if (clause.within === null || due === null) return clause.within === due
      const today = dayAt(terms.now, terms.zone)
      return clause.within === -1 ? due < today : due <= addDays(today, clause.within)
    }
    case 'since': {
      const last = lastDayOf(item, terms.zone)
      const today = dayAt(terms.now, terms.zone)
      return last === null || last >= addDays(today, -clause.days)
    }
  }
}

export const admits = (filter: Filter, item: Item, terms: FilterTerms): boolean =>
  filter.every(clause => clauseAdmits(clause, item, terms))

/**
 * Whether an item that takes part keeps taking part. Completion or the passing of days removes nothing; only a
 * change of person, place or words does.
 */
export const keeps = (filter: Filter, item: Item, terms: FilterTerms): boolean =>
  filter.every(
    clause =>
      clause.field === 'since' ||
      clause.field === 'status' ||
      clause.field === 'serviceStatus' ||
      clauseAdmits(clause, item, terms),
  )
