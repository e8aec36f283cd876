import type { NotEarlierTold, Told, WhyNotTold } from '@loom/core/planning'
import {
  addDays,
  capacityOn,
  type ClothItem,
  dayAt,
  dayWords,
  durationWords,
  epochOf,
  onDate,
  wallTime,
  type WorkingHours,
  zoned,
} from '@loom/core/view'
import { clockWords } from '../../../ui/telling.ts'

/** Why a draft is as it is, in words. */

export interface ReasonTerms {
  zone: string
  titleOf: (id: string) => string
  /** What has taken the time already. */
  items: readonly ClothItem[]
  hours: WorkingHours
}

const listed = (names: readonly string[]): string => {
  const [first = '', second] = names
  if (names.length <= 1) return first
  return names.length === 2 ? `${first} and ${second}` : `${first}, ${second} and ${names.length - 2} more`
}

/** @param regular its id, where it is one */
export function whyNotWords(why: WhyNotTold, regular: string | null, { titleOf }: ReasonTerms): string {
  switch (why.kind) {
    case 'no room':
      return 'There is no free time for it on these days.'
    case 'days full':
      return 'There is free time, but these days hold no more work.'
    case 'no rest':
      return 'There is free time, but it would leave no break.'
    case 'too little':
      return `At most ${durationWords(why.minutes)} of it fit on these days.`
    case 'waits':
      return `It waits for ${titleOf(why.for)}.`
    case 'others came first':
      if (regular !== null && why.whose.every(id => id.startsWith(`${regular} `)))
        return 'It stands on each day that has room for it.'
      return why.whose.length === 0
        ? 'Other tasks press more.'
        : `It would fit alone: ${listed(why.whose.map(titleOf))} ${why.whose.length === 1 ? 'stands' : 'stand'} there.`
  }
}

type NotPlanned = Told['left'][number]
export function leftWords(left: NotPlanned, { titleOf }: ReasonTerms): string {
  switch (left.because) {
    case 'takes no time':
      return 'Its estimate is 0 min: it takes no time.'
    case 'is reserved already':
      return 'All of its time is reserved already.'
    case 'overrun':
      return 'It has taken all that was estimated. Say how much is left.'
    case 'in a circle':
      return 'It waits for itself, in a circle.'
    case 'waits':
      return `It waits for ${titleOf(left.for)}.`
  }
}

/** What stands in a span already, by its title. */
function standing({ fromMs, toMs }: NotEarlierTold, { items }: ReasonTerms): string[] {
  const there = items.filter(
    ({ place, busy, done }) =>
      place.kind === 'timed' && busy && !done && place.startMs < toMs && fromMs < place.endMs,
  )
  return [...new Set(there.map(i => (i.onlyBusy ? 'something busy' : i.title)))]
}

export function notEarlierWords(one: NotEarlierTold, terms: ReasonTerms): string {
  const { blocker } = one
  switch (blocker.kind) {
    case 'taken': {
      const names = standing(one, terms)
      return names.length === 0 ? 'not enough time left' : listed(names)
    }
    case 'demand':
      return terms.titleOf(blocker.id)
    case 'day full':
      return 'the day holds no more'
    case 'rest':
      return 'there would be no break'
    case 'once a day':
      return blocker.id.includes(' ') ? 'once a day' : 'another piece of it is on that day'
    case 'further ways':
      return 'that would take further ways'
    case 'not admitted':
      return 'outside of its work windows, or kept by one'
    case 'costs more':
      return 'the draft as a whole would be worse'
  }
}

/** `Mon 30 08:00–09:30`; over days, from day to day. */
export function spanInWords({ fromMs, toMs }: { fromMs: number; toMs: number }, zone: string): string {
  const [from, to] = [dayAt(fromMs, zone), dayAt(toMs - 1, zone)]
  const clock = (ms: number): string => clockWords(ms, zone)
  return from === to
    ? `${dayWords(from)} ${clock(fromMs)}–${clock(toMs)}`
    : `${dayWords(from)} ${clock(fromMs)} – ${dayWords(to)} ${clock(toMs)}`
}

/** By day, the latest first: what is nearest to where it stands is what one asks about. */
export interface ReasonDay {
  day: string
  lines: { span: string; why: string }[]
}
const MOST_LINES = 10

/** Only of one's working hours: what lies outside of them needs no reason. */
export function reasonDays(found: readonly NotEarlierTold[], terms: ReasonTerms): ReasonDay[] {
  const lines = found
    .flatMap(one => insideHours(one, terms))
    .map(one => ({ ...one, why: notEarlierWords(one, terms) }))
  const joined: typeof lines = []
  for (const line of lines) {
    const last = joined.at(-1)
    if (last?.why === line.why && last.date === line.date) last.toMs = line.toMs
    else joined.push({ ...line })
  }
  const days: ReasonDay[] = []
  for (const { date, fromMs, toMs, why } of joined.reverse().slice(0, MOST_LINES)) {
    const day = dayWords(date)
    const line = { span: `${clockWords(fromMs, terms.zone)}–${clockWords(toMs, terms.zone)}`, why }
    const last = days.at(-1)
    if (last?.day === day) last.lines.push(line)
    else days.push({ day, lines: [line] })
  }
  return days
}

function insideHours(
  one: NotEarlierTold,
  { zone, hours }: ReasonTerms,
): (NotEarlierTold & { date: string })[] {
  const parts: (NotEarlierTold & { date: string })[] = []
  for (let date = dayAt(one.fromMs, zone); date <= dayAt(one.toMs - 1, zone); date = addDays(date, 1)) {
    const at = (minute: number): number =>
      epochOf(minute >= 1440 ? onDate(addDays(date, 1)) : zoned(`${date}T${wallTime(minute)}:00`, zone), zone)
    const [fromMs, toMs] = [Math.max(one.fromMs, at(hours.from)), Math.min(one.toMs, at(hours.to))]
    if (toMs > fromMs && capacityOn(hours, date) > 0) parts.push({ ...one, fromMs, toMs, date })
  }
  return parts
}
