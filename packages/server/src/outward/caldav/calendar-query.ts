import type { CalendarObject } from './calendars.ts'
import { attributeOf, childOf, hasChild, manyOf } from './xml.ts'

/** Filters of a calendar-query (RFC 4791 §9.7): by component and by when it takes place. */

/** `20261130T090000Z` as epoch ms; null for what is none. */
function instantOf(text: string): number | null {
  const m = /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/.exec(text)
  if (!m) return null
  const [year = 0, month = 0, day = 0, h = 0, min = 0, s = 0] = m.slice(1).map(Number)
  return Date.UTC(year, month - 1, day, h, min, s)
}

/** Null where a filter is asked for that is not understood: leaving it out would answer something else. */
export function rangeIn(query: unknown): ((object: CalendarObject) => boolean) | null {
  const filter = childOf(query, 'filter')
  const outer = childOf(filter, 'comp-filter')
  if (outer === undefined) return () => true
  if (attributeOf(outer, 'name') !== 'VCALENDAR' || hasChild(outer, 'prop-filter')) return null
  const inner = manyOf(childOf(outer, 'comp-filter'))
  if (inner.length === 0) return () => true
  const tests: ((o: CalendarObject) => boolean)[] = []
  for (const of of inner) {
    if (['prop-filter', 'comp-filter', 'is-not-defined'].some(n => hasChild(of, n))) return null
    const component = attributeOf(of, 'name')
    const range = childOf(of, 'time-range')
    const [start, end] = [attributeOf(range, 'start'), attributeOf(range, 'end')]
    const from = start === '' ? -Infinity : instantOf(start)
    const to = end === '' ? Infinity : instantOf(end)
    if (from === null || to === null) return null
    // A to-do without any time is in every range (RFC 4791 §9.9).
    tests.push(
      ({ component: is, span }) =>
        is === component && (span === null || (span.fromMs < to && from < span.toMs)),
    )
  }
  return object => tests.every(t => t(object))
}
