import { en, type ParsedResult } from 'chrono-node'
import { addDays, mondayOf } from '../time/when.ts'

/** Days as people say them, `YYYY-MM-DD`. */

export interface SaidDay {
  index: number
  words: string
  date: string
  /** Minutes since midnight, where the words say an hour too: "in 30 minutes". */
  hour: number | null
}

/** Words with a second meaning are dates only after a word that introduces a date, or beside a number. */
const AMBIGUOUS = /^(?:sun|sat|mon|wed|mar|may|march|dec|jan|second|now|august)$/i
const SAYS_WHEN = /\b(?:on|by|due|next|this|until|before|since|every|last|deadline)\s+$/i
/** Of months alone, and what is shorter than a day. */
const NO_DAY =
  /^(?:(?:in|by|this|next|last)\s+)?(?:january|february|march|april|may|june|july|august|september|october|november|december|jan|feb|mar|apr|jun|jul|aug|sep|sept|oct|nov|dec|now|(?:a|one|few|couple)?\s*seconds?|in a second|morning|afternoon|evening|(?:this|the|in the)\s+\w+ing)$/i

const dayOf = (r: ParsedResult): string | null => {
  const [y, m, d] = [r.start.get('year'), r.start.get('month'), r.start.get('day')]
  if (!y || !m || !d) return null
  const two = (n: number): string => String(n).padStart(2, '0')
  return `${String(y).padStart(4, '0')}-${two(m)}-${two(d)}`
}

const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday']
const WEEKDAY = WEEKDAYS.join('|')

const next = (today: string, weekday: string): string => {
  const n = WEEKDAYS.indexOf(weekday.toLowerCase())
  const date = addDays(mondayOf(today), n)
  return date > today ? date : addDays(date, 7)
}
const lastOfMonth = (today: string, ahead: number): string => {
  const [y = 1970, m = 1] = today.split('-').map(Number)
  return new Date(Date.UTC(y, m + ahead, 0)).toISOString().slice(0, 10)
}
function dayOfMonth(today: string, day: number): string | null {
  const [y = 1970, m = 1] = today.split('-').map(Number)
  for (let ahead = 0; ahead < 3; ahead++) {
    const date = new Date(Date.UTC(y, m - 1 + ahead, day))
    const told = date.toISOString().slice(0, 10)
    if (date.getUTCDate() === day && told >= today) return told
  }
  return null
}

/** What the library does not read. */
const OWN: [RegExp, (m: RegExpExecArray, today: string) => string | null][] = [
  [new RegExp(`(?:on\\s+)?(${WEEKDAY}) week`), ([, d = ''], today) => addDays(next(today, d), 7)],
  [new RegExp(`a week on (${WEEKDAY})`), ([, d = ''], today) => addDays(next(today, d), 7)],
  [/(?:at\s+)?(?:the\s+)?end of (?:the|this) month/, (_, today) => lastOfMonth(today, 0)],
  [/(?:at\s+)?(?:the\s+)?end of next month/, (_, today) => lastOfMonth(today, 1)],
  [/(?:at\s+)?(?:the\s+)?end of (?:the|this) week/, (_, today) => addDays(mondayOf(today), 4)],
  [/(?:at\s+)?(?:the\s+)?end of next week/, (_, today) => addDays(mondayOf(today), 11)],
  [
    /(?:(?:on|by|due|before|until)\s+)?the (\d{1,2})(?:st|nd|rd|th)(?!\s+(?:of\b|\p{L}))|on the (\d{1,2})(?:st|nd|rd|th)(?!\s+of\b)/u,
    ([, a, b], today) => dayOfMonth(today, Number(a ?? b)),
  ],
]

/** A weekday before a word is part of a name ("the Sunday banner"), unless something says that it is when. */
function isOfSomething(text: string, r: ParsedResult): boolean {
  if (!new RegExp(`^(?:${WEEKDAY})$`, 'i').test(r.text) || r.index === 0) return false
  if (SAYS_WHEN.test(text.slice(0, r.index))) return false
  return /^\s+(?!at\b|by\b|due\b|for\b|from\b|in\b|to\b|until\b|before\b|with\b|and\b|between\b)\p{L}/iu.test(
    text.slice(r.index + r.text.length),
  )
}

/** All days in the text, in its order. `today`: where the person is, with the wall clock `local` (`YYYY-MM-DDTHH:MM:SS`). */
export function daysIn(text: string, today: string, local: string): SaidDay[] {
  const found: SaidDay[] = []
  const isFree = (index: number, words: string): boolean =>
    found.every(f => index + words.length <= f.index || index >= f.index + f.words.length)
  const isWhole = (index: number, words: string): boolean =>
    !/[\p{L}\p{N}]$/u.test(text.slice(0, index)) &&
    !/^(?:[\p{L}\p{N}]|['’]s\b)/u.test(text.slice(index + words.length))
  for (const [form, read] of OWN)
    for (const m of text.matchAll(new RegExp(form.source, 'giu'))) {
      // The word that makes it a deadline is read by whoever asks.
      const lead = /^(?:by|due|before|until)\s+/i.exec(m[0])?.[0] ?? ''
      const [index, words] = [m.index + lead.length, m[0].slice(lead.length)]
      const date = read(m as RegExpExecArray, today)
      if (date && isFree(index, words) && isWhole(index, words))
        found.push({ index, words, date, hour: null })
    }
  // The library reads the reference by its own clock: it is given the wall clock of the zone as if it were UTC.
  const reference = { instant: new Date(`${local}Z`), timezone: 0 }
  for (const r of en.GB.parse(text, reference, { forwardDate: true })) {
    const date = dayOf(r)
    const before = text.slice(0, r.index)
    const unsure =
      /^\d+\s?[hms]$/i.test(r.text) ||
      NO_DAY.test(r.text) ||
      (AMBIGUOUS.test(r.text) && !SAYS_WHEN.test(before))
    if (!date || unsure || !isFree(r.index, r.text) || !isWhole(r.index, r.text)) continue
    if (isOfSomething(text, r)) continue
    // Hours are read by themselves; the library's are of what is said from now on.
    const isFromNow = /^(?:in|within)\b|\bfrom now$|\blater$/i.test(r.text)
    if (!isFromNow && !['day', 'weekday', 'month'].some(c => r.start.isCertain(c as 'day'))) continue
    const isHour = isFromNow && r.start.isCertain('hour')
    const hour = isHour ? (r.start.get('hour') ?? 0) * 60 + (r.start.get('minute') ?? 0) : null
    found.push({ index: r.index, words: r.text, date, hour })
  }
  return found.sort((x, y) => x.index - y.index)
}
