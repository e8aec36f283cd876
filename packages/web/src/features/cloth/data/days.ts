import { dateNames, longDayWords, shortName, type ViewBody } from '@loom/core/view'

/** What the days of a span are called. */

export function headingOf(view: Pick<ViewBody, 'span'>, dates: readonly string[], at: string): string {
  const [first, last] = [dateNames(dates[0] ?? at), dateNames(dates.at(-1) ?? at)]
  if (view.span === 'month') return `${dateNames(at).month} ${dateNames(at).year}`
  if (dates.length <= 1) return longDayWords(dates[0] ?? at)
  if (first.month === last.month && first.year === last.year)
    return `${first.day} – ${last.day} ${last.month}`
  // Two months in full would take the head of the Cloth to a second line.
  return `${first.day} ${shortName(first.month)} – ${last.day} ${shortName(last.month)}`
}

export const STEP_WORDS: Record<ViewBody['span'], { before: string; after: string; now: string }> = {
  day: { before: 'The day before', after: 'The day after', now: 'Today' },
  days: { before: 'Earlier', after: 'Later', now: 'Today' },
  'work-week': { before: 'The week before', after: 'The week after', now: 'This week' },
  week: { before: 'The week before', after: 'The week after', now: 'This week' },
  month: { before: 'The month before', after: 'The month after', now: 'This month' },
  list: { before: 'Earlier', after: 'Later', now: 'Today' },
}
