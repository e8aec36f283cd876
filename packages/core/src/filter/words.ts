import type { Clause, Filter } from './filter.ts'

/** A filter as the parts of a sentence. `nameOf` gives people and statuses the names they go by. */

/** One set of words for statuses, everywhere. */
export const STATUS_WORDS = {
  'needs-action': 'to do',
  'in-process': 'in progress',
  completed: 'done',
  cancelled: 'cancelled',
} as const

export const listed = (words: string[], last = 'or'): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1) ?? ''}`

const quoted = (words: string[]): string => listed(words.map(w => `“${w}”`))

export function clauseWords(clause: Clause, nameOf: (id: string) => string = id => id): string {
  switch (clause.field) {
    case 'status':
      return `that are ${listed(clause.is.map(s => STATUS_WORDS[s]))}`
    case 'serviceStatus':
      return `in ${quoted(clause.is.map(nameOf))}`
    case 'assignee':
      return `of ${listed(clause.is.map(w => (w === 'me' || w === 'nobody' ? w : nameOf(w))))}`
    case 'words':
      return `${clause.without ? 'without' : 'with'} ${quoted(clause.of)}`
    case 'category':
      return `marked ${quoted(clause.is)}`
    case 'priority':
      return `with priority ${clause.atLeast} or higher`
    case 'list':
      return `in ${listed(clause.is.map(nameOf))}`
    case 'member':
      return `of ${listed(clause.is.map(nameOf))}`
    case 'due':
      if (clause.within === null) return 'without a due date'
      if (clause.within === -1) return 'that are overdue'
      return clause.within === 0 ? 'due today' : `due within ${clause.within} days`
    case 'since':
      return clause.days === 0 ? 'from today on' : `from ${clause.days} days ago on`
  }
}

export const filterWords = (filter: Filter, nameOf?: (id: string) => string): string =>
  filter.map(c => clauseWords(c, nameOf)).join(', ') || 'without exception'
