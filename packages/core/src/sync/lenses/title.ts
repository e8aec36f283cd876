import type { Item } from '../../items/items.ts'
import type { Rule, Side, SideTerms } from '../model/types.ts'
import { type Facet, type Lens, lens, type Put, value } from './lens.ts'
import { splitMark, withMark } from './mark.ts'

export const UNTITLED = 'Untitled'

/** A title as side a holds it, with the words that the rule puts round it on side b. */
export interface FramedTitle {
  title: string
  before: string
  after: string
}

const cut = (text: string, max: number | null): string =>
  max === null || text.length <= max ? text : Array.from(text).slice(0, max).join('')

/** What a side makes of a title: a task's is one line and never empty; an event's bears no mark. */
function fitFor(kind: Item['kind'], { summaryMaxLength }: SideTerms, mark: string) {
  return kind === 'task'
    ? (text: string) => cut(text.replace(/\s*[\r\n]+\s*/g, ' ').trim() || UNTITLED, summaryMaxLength)
    : (text: string) => cut(splitMark(text, mark).title, summaryMaxLength)
}

const facetOf = (kind: Item['kind'], mark: string): Facet<string> => ({
  props: ['summary'],
  read: item => (kind === 'event' ? splitMark(item.summary, mark).title : item.summary),
  patch: (title, present, patch) => {
    if (kind === 'task') return { ...patch, summary: title }
    const { marked } = splitMark(patch.summary ?? present?.summary ?? '', mark)
    return { ...patch, summary: withMark(title, marked, mark) }
  },
})

/** Names in a template, other than the title itself. */
const NAMED = /\{(priority|category|status|list)\}/g

/** What a template says round the title for this item. Null when it has no place for the title. */
export function frameOf(template: string, item: Item): { before: string; after: string } | null {
  const at = template.indexOf('{title}')
  if (at < 0) return null
  const said: Record<string, string> = {
    priority: 'priority' in item && item.priority > 0 ? String(item.priority) : '',
    category: item.categories[0] ?? '',
    status: item.kind === 'task' ? item.serviceStatus : item.status,
    list: '',
  }
  const fill = (part: string): string => part.replace(NAMED, (_, name: string) => said[name] ?? '')
  return { before: fill(template.slice(0, at)), after: fill(template.slice(at + '{title}'.length)) }
}

export function titleLens(rule: Rule): Lens {
  const { kinds, terms, settings } = rule
  const { mark, title: template } = settings
  const fit: Record<Side, (text: string) => string> = {
    a: fitFor(kinds.a, terms.a, mark),
    b: fitFor(kinds.b, terms.b, mark),
  }
  const bare = { a: facetOf(kinds.a, mark), b: facetOf(kinds.b, mark) }
  if (template === '{title}') return plainTitle(rule, fit, bare)
  return framedTitle(rule, template, fit, bare)
}

/** Held when a title of which only the beginning is known was edited there: the rest would be lost. */
function carry(rule: Rule, fit: Record<Side, (text: string) => string>, from: Side) {
  const to: Side = from === 'a' ? 'b' : 'a'
  const max = rule.terms[from].summaryMaxLength
  return (title: string, other: string | null): Put<string> => {
    if (other !== null && fit[from](other) === title) return value(other)
    if (other !== null && max !== null && Array.from(other).length > max)
      return {
        kind: 'held',
        reason: `One side holds only the first ${max} characters of a longer title, and they were edited there.`,
        insisted: fit[to](title),
      }
    // What the other side would read as this very title stays as it is; else it is written in full.
    return value(fit[to](title))
  }
}

function plainTitle(
  rule: Rule,
  fit: Record<Side, (text: string) => string>,
  facets: Record<Side, Facet<string>>,
): Lens {
  return lens<string, string>({
    field: 'title',
    a: facets.a,
    b: facets.b,
    forth: carry(rule, fit, 'a'),
    back: carry(rule, fit, 'b'),
  })
}

function framedTitle(
  rule: Rule,
  template: string,
  fit: Record<Side, (text: string) => string>,
  facets: Record<Side, Facet<string>>,
): Lens {
  const unframe = (title: string, { before, after }: Omit<FramedTitle, 'title'>): string | null =>
    title.startsWith(before) && title.endsWith(after) && title.length >= before.length + after.length
      ? title.slice(before.length, title.length - after.length)
      : null
  const framed: Facet<FramedTitle> = {
    props: ['summary', 'priority', 'categories', 'serviceStatus'].filter(
      p =>
        p === 'summary' ||
        template.includes(`{${p === 'categories' ? 'category' : p === 'serviceStatus' ? 'status' : p}}`),
    ),
    edited: ['summary'],
    read: item => ({
      title: facets.a.read(item, undefined),
      ...(frameOf(template, item) ?? { before: template, after: '' }),
    }),
    patch: ({ title }, present, patch) => facets.a.patch(title, present, patch),
  }
  /** The frame is never cut: the title in it is, if anything. */
  const inFrame = ({ title, before, after }: FramedTitle): string => {
    const max = rule.terms.b.summaryMaxLength
    const room = max === null ? null : Math.max(1, max - before.length - after.length)
    return before + cut((before === '' ? fit.b(title) : title) || UNTITLED, room) + after
  }
  /** The base without the words that the rule adds. */
  const asFramed = (raw: FramedTitle | string): FramedTitle =>
    typeof raw === 'string' ? { title: raw, before: '', after: '' } : raw
  const hasTitle = template.includes('{title}')
  const [plainBefore = '', plainAfter = ''] = template.replace(NAMED, '').split('{title}')
  const plainFrame = { before: plainBefore, after: plainAfter }
  return lens<FramedTitle, string>({
    field: 'title',
    a: framed,
    b: facets.b,
    forth: (a, b) => {
      if (!hasTitle) return value(a.before)
      const inside = b === null ? null : unframe(b, a)
      return value(b !== null && inside !== null && fit.a(inside) === a.title ? b : inFrame(a))
    },
    reword: (b, a, { a: agreed }) => {
      const then = agreed === undefined ? null : asFramed(agreed)
      const bareThen = then === null || (then.before === '' && then.after === '')
      return bareThen || unframe(b, a) !== null || unframe(b, then) === null ? b : inFrame(a)
    },
    back: (b, a, base) => {
      if (!hasTitle)
        return {
          kind: 'held',
          reason: 'This rule writes a title of its own there, which says nothing of the other side’s.',
          insisted: { ...(a ?? plainFrame), title: fit.a(b) },
        }
      const agreed = base?.a === undefined ? undefined : asFramed(base.a)
      const frame = a ?? agreed ?? plainFrame
      // An item that a person made keeps its own title, without the rule's words, until the other side changes it.
      const ownTitle =
        base?.b === undefined ? a === null : agreed === undefined || unframe(base.b, agreed) === null
      const inside = unframe(b, frame) ?? (agreed ? unframe(b, agreed) : null) ?? (ownTitle ? b : null)
      if (inside === null)
        return {
          kind: 'held',
          reason: `The words that the rule puts round the title (${template}) were changed.`,
          insisted: { ...frame, title: fit.a(b) },
        }
      const title = fit.a(inside)
      return value({ title, before: frame.before, after: frame.after })
    },
    // Only the words round it changed on this side, and only the title on the other.
    join: (a, b, base) => {
      const agreed = asFramed(base.a)
      if (a.title !== agreed.title) return null
      const inside = unframe(b, agreed) ?? unframe(b, a)
      return inside === null ? null : { ...a, title: fit.a(inside) }
    },
  })
}
