import type { Item } from '../../items/items.ts'
import { isOurMark } from '../../items/kind-marks.ts'
import type { Rule } from '../model/types.ts'
import { checklistIn, withoutChecklist } from './checklist.ts'
import { type Facet, type Lens, lens, plainLens, type Put, value } from './lens.ts'

/** Fields that are carried as they are, or through a table. */

const notes: Facet<string> = {
  props: ['description'],
  read: item => (item.kind === 'event' ? withoutChecklist(item.description) : item.description),
  patch: (text, present, patch) => {
    const list = present?.kind === 'event' ? checklistIn(patch.description ?? present.description) : ''
    return { ...patch, description: text + list }
  },
}
export const notesLens = plainLens('notes', notes)

/** Two edits of a set meet: what either took out is out, what either put in is in. */
function joinSets(a: string[], b: string[], base: string[]): string[] {
  const out = base.filter(x => a.includes(x) && b.includes(x))
  const added = [...a, ...b].filter(x => !base.includes(x))
  return [...new Set([...out, ...added])]
}
/** Marks of kind and movability belong to this event only. They are not categories and stay. */
const categories: Facet<string[]> = {
  props: ['categories'],
  read: item => item.categories.filter(c => !isOurMark(c)).sort(),
  patch: (list, present, patch) => ({
    ...patch,
    categories: [...list, ...(present?.categories.filter(isOurMark) ?? [])],
  }),
}
export const categoriesLens = plainLens('categories', categories, joinSets)

export const locationLens = plainLens<string>('location', {
  props: ['location'],
  read: item => item.location ?? '',
  patch: (location, _, patch) => ({ ...patch, location }),
})

export const linkLens = plainLens<string | null>('link', {
  props: ['url'],
  read: item => item.url,
  patch: (url, _, patch) => ({ ...patch, url }),
})

/**
 * Priorities by the rule's table. If several values mean the same, the present one is kept. A value that the table
 * does not name is carried unchanged, unless the table uses that value for something else: then a person decides.
 */
export function priorityLens({ settings: { priorities } }: Rule): Lens {
  const facet: Facet<number> = {
    props: ['priority'],
    read: (item: Item) => item.priority,
    patch: (priority, _, patch) => ({ ...patch, priority }),
  }
  const forth = (a: number): number => priorities.find(p => p.a === a)?.b ?? a
  const back = (b: number): number => priorities.find(p => p.b === b)?.a ?? b
  const means = (a: number, b: number): boolean =>
    priorities.length === 0
      ? a === b
      : priorities.some(p => p.a === a && p.b === b) || (forth(a) === b && back(b) === a)
  const carried = (from: 'a' | 'b', raw: number): Put<number> => {
    const isNamed = priorities.some(p => p[from] === raw)
    const isTaken = priorities.some(p => p[from === 'a' ? 'b' : 'a'] === raw)
    if (isNamed || !isTaken) return value(from === 'a' ? forth(raw) : back(raw))
    return {
      kind: 'held',
      reason: `The rule’s table of priorities does not say what ${raw} is on the other side.`,
      insisted: raw,
    }
  }
  return lens<number, number>({
    field: 'priority',
    a: facet,
    b: facet,
    forth: (a, b) => (b !== null && means(a, b) ? value(b) : carried('a', a)),
    back: (b, a) => (a !== null && means(a, b) ? value(a) : carried('b', b)),
  })
}

/** Who does it: each service's own people, joined by the members they are. Strangers stay where they are. */
export function peopleLens({ terms }: Rule): Lens {
  const facet: Facet<string[]> = {
    props: ['assignees'],
    read: item => (item.kind === 'task' ? [...item.assignees].sort() : []),
    patch: (assignees, _, patch) => ({ ...patch, assignees }),
  }
  const [byA, byB] = [terms.a.people, terms.b.people]
  const idIn = (people: Readonly<Record<string, string>>, member: string | undefined): string | undefined =>
    member === undefined ? undefined : Object.keys(people).find(id => people[id] === member)
  const move = (from: typeof byA, to: typeof byB) => (here: string[], there: string[] | null) => {
    const members = here.flatMap(id => from[id] ?? [])
    // Who is there already under another account of the same member is not put there twice.
    const kept = (there ?? []).filter(id => {
      const member = to[id]
      return member === undefined || idIn(from, member) === undefined || members.includes(member)
    })
    const has = new Set(kept.flatMap(id => to[id] ?? []))
    const added = members.filter(m => !has.has(m)).flatMap(m => idIn(to, m) ?? [])
    return value([...new Set([...kept, ...added])].sort())
  }
  return lens<string[], string[]>({
    field: 'people',
    a: facet,
    b: facet,
    forth: move(byA, byB),
    back: move(byB, byA),
  })
}
