import { type Clock, clockWords, FIELD_WORDS, longDayWords, reasonWords, valueWords } from '@loom/core'
import type { SummaryLine } from '../data/repositories/journal.ts'

/** What sync changed on a day, told as a mail. */

export interface Summary {
  day: string
  garden: string
  name: string
  zone: string
  clock: Clock
  lines: SummaryLine[]
  /** What waits for an answer of whoever the letter goes to, now. */
  waiting: { requests: number; conflicts: number; unconfirmed: number; stopped: number }
  journal: string
}

/** Listed one by one up to here; the counts are of everything. */
const LISTED = 40

const counted = (n: number, what: string): string[] => (n > 0 ? [`${n} ${what}`] : [])

function countsOf(lines: readonly SummaryLine[]): string {
  const done = lines.filter(l => l.outcome === 'done')
  return [
    ...counted(done.filter(l => l.op === 'create').length, 'made'),
    ...counted(done.filter(l => l.op === 'patch').length, 'changed'),
    ...counted(done.filter(l => l.op === 'delete').length, 'removed'),
    ...counted(lines.filter(l => l.outcome === 'overridden').length, 'overridden'),
    ...counted(lines.filter(l => l.outcome === 'refused').length, 'refused by their service'),
    ...counted(
      lines.filter(l => l.outcome === 'unknown').length,
      'of which it is not known whether they were written',
    ),
  ].join(', ')
}

function lineWords(line: SummaryLine, { zone, clock }: Pick<Summary, 'zone' | 'clock'>): string {
  const value = (raw: unknown): string => valueWords(raw, zone, clock) ?? 'nothing'
  const changes = line.fields
    .slice(0, 3)
    .map(f => `${FIELD_WORDS[f.field]} ${value(f.before)} → ${value(f.after)}`)
  const what = line.op === 'create' ? 'made' : line.op === 'delete' ? 'removed' : changes.join('; ')
  const why =
    line.outcome === 'done'
      ? reasonWords(line.cause)
      : `${line.outcome}${line.reason ? `: ${line.reason}` : ''}`
  return `  ${clockWords(line.at, zone, clock)}  ${line.title} (${line.place}): ${what}. ${why}.`
}

/** Null when there is nothing to tell. */
export function summaryMail(s: Summary): { subject: string; text: string } | null {
  const { requests, conflicts, unconfirmed, stopped } = s.waiting
  if (s.lines.length === 0 && Object.values(s.waiting).every(n => n === 0)) return null
  const day = longDayWords(s.day)
  const rules = [...new Set(s.lines.map(l => l.rule))]
  const parts = rules.map(rule => {
    const own = s.lines.filter(l => l.rule === rule)
    return [`${rule ?? 'By hand'}: ${countsOf(own)}`, ...own.slice(0, LISTED).map(l => lineWords(l, s))].join(
      '\n',
    )
  })
  const waits = [
    ...counted(requests, requests === 1 ? 'request waits for your answer' : 'requests wait for your answer'),
    ...counted(conflicts, conflicts === 1 ? 'conflict waits for an answer' : 'conflicts wait for an answer'),
    ...counted(
      unconfirmed,
      unconfirmed === 1 ? 'new item may or may not be made' : 'new items may or may not be made',
    ),
    ...counted(stopped, stopped === 1 ? 'item is held by the brake' : 'items are held by the brake'),
  ]
  const more = s.lines.length > LISTED ? 'Not everything is listed here.\n' : ''
  const text = [
    `${s.name},`,
    s.lines.length > 0
      ? `this is what was changed at ${s.garden} on ${day}.`
      : `nothing was changed at ${s.garden} on ${day}.`,
    ...parts,
    ...(waits.length > 0 ? [`Waiting now: ${waits.join(', ')}.`] : []),
    `${more}All of it, with a way back: ${s.journal}\nYou asked for this mail under My settings, and can end it there.`,
  ].join('\n\n')
  const total = s.lines.length
  return { subject: `${day}: ${total} ${total === 1 ? 'change' : 'changes'} by sync`, text }
}
