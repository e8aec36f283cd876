import { filterWords, listed } from '../filter/words.ts'
import { type Direction, FIELDS, type Field, type RuleSettings } from '../sync/model/settings.ts'
import { fieldsFor } from '../sync/lenses/index.ts'
import { FIELD_WORDS } from './words.ts'

/** A rule read aloud. */

type Kinds = Record<'a' | 'b', 'task' | 'event'>
const capital = (text: string): string => text.replace(/^./, c => c.toUpperCase())
const many = { task: 'tasks', event: 'events' } as const

export const DIRECTION_WORDS: Record<Direction, string> = {
  both: 'both ways',
  'a-to-b': 'to the second side only',
  'b-to-a': 'to the first side only',
  once: 'once, when it is made',
  off: 'not synced',
}

/** What becomes of the other side's item when one of this kind is deleted. */
export function deletedWords(policy: RuleSettings['deleted']['a'], other: 'task' | 'event'): string {
  const words: Record<typeof policy, string> = {
    again: 'it is made again',
    left: `the ${other} is left alone`,
    cancelled: `the ${other} is cancelled`,
    completed: `the ${other} counts as done`,
    status: 'the task is given a status of its own',
    undated: other === 'task' ? 'the task goes back to the shelf' : `the ${other} is left alone`,
    deleted: other === 'task' ? 'the task is deleted' : 'the event is removed',
  }
  return words[policy]
}

export function madeWords(
  policy: RuleSettings['made']['a'],
  kind: 'task' | 'event',
  other: 'task' | 'event',
  mark: string,
): string {
  const words: Record<typeof policy, string> = {
    all: `has its ${other}`,
    new: `becomes ${other === 'event' ? 'an event' : 'a task'} if it is made after this rule`,
    marked: `becomes ${other === 'event' ? 'an event' : 'a task'} if its title begins with ${mark}`,
    nothing: `stays just ${kind === 'event' ? 'an event' : 'a task'}`,
  }
  return words[policy]
}

export const leftWords = (policy: RuleSettings['left']['a'], other: 'task' | 'event'): string =>
  ({
    release: `the ${other} stays, on its own`,
    mark: `the ${other} is cancelled`,
    remove: `the ${other} is removed`,
  })[policy]

/** Fields in the order in which they are told, by the way they go. */
function fieldsThatGo(settings: RuleSettings, kinds: Kinds, direction: Direction): string[] {
  const there = new Set<Field>(fieldsFor(kinds))
  return FIELDS.filter(f => there.has(f) && settings.fields[f] === direction).map(f => FIELD_WORDS[f])
}

/** One line that says what a rule does: names are of lists and calendars. */
export function ruleLine(settings: RuleSettings, kinds: Kinds, aName: string, bName: string): string {
  const both = fieldsThatGo(settings, kinds, 'both')
  const forth = fieldsThatGo(settings, kinds, 'a-to-b')
  const back = fieldsThatGo(settings, kinds, 'b-to-a')
  const parts = [
    both.length > 0 ? `${listed(both, 'and')} ${both.length === 1 ? 'goes' : 'go'} both ways` : '',
    forth.length > 0 ? `${listed(forth, 'and')} only to ${bName}` : '',
    back.length > 0 ? `${listed(back, 'and')} only to ${aName}` : '',
  ].filter(Boolean)
  const who = settings.filter.a.length > 0 ? ` ${filterWords(settings.filter.a)}` : ''
  if (kinds.a === kinds.b) {
    const also = settings.made.b === 'nothing' ? 'are also in' : 'and those of'
    const rest = settings.made.b === 'nothing' ? '' : ' are the same'
    return `${capital(many[kinds.a])}${who} of ${aName} ${also} ${bName}${rest}: ${parts.join('; ') || 'nothing is carried'}.`
  }
  const first = `${capital(many[kinds.a])}${who} of ${aName} ${
    settings.made.b === 'nothing' ? 'have their' : 'share their'
  } ${many[kinds.b]} in ${bName}`
  return `${first}: ${parts.join('; ') || 'nothing is carried'}.`
}

/** What differs between two versions of a rule, a line for each choice. */
export function settingsDiff(
  before: RuleSettings,
  after: RuleSettings,
): { what: string; before: string; after: string }[] {
  const flat = (of: unknown, path: string): [string, string][] =>
    typeof of === 'object' && of !== null && !Array.isArray(of)
      ? Object.entries(of).flatMap(([k, v]) => flat(v, path === '' ? k : `${path} ${k}`))
      : [[path, typeof of === 'string' ? of : JSON.stringify(of)]]
  const old = new Map(flat(before, ''))
  return flat(after, '').flatMap(([what, value]) =>
    old.get(what) === value ? [] : [{ what: whatWords(what), before: old.get(what) ?? '', after: value }],
  )
}

const SETTING_WORDS: Record<string, string> = {
  fields: 'field',
  filter: 'who takes part on side',
  also: 'further lists of side',
  all: 'all lists of side',
  made: 'made directly on side',
  deleted: 'deleted on side',
  deletedStatus: 'status after a deletion on side',
  neverLoses: 'never loses, side',
  left: 'left the filter on side',
  completed: 'when a task is completed',
  defaultMinutes: 'length without an estimate',
  backDays: 'days back',
  aheadDays: 'days ahead',
  noHour: 'a date without an hour',
  dueIs: 'a deadline with an hour is',
  firstWinner: 'kept when first tied',
  fallback: 'kept when edits cannot be told apart',
  madeMark: 'mark of what is to become a task',
  series: 'events that repeat',
  openSubtasks: 'open sub-tasks',
  blocksAhead: 'blocks still ahead',
  show: 'shown',
  tellKind: 'saying that an event is flexible',
  privateItems: 'private events',
}
const whatWords = (path: string): string => {
  const [head = '', ...rest] = path.split(' ')
  const field = head === 'fields' ? FIELD_WORDS[rest[0] as Field] : undefined
  return field ?? [SETTING_WORDS[head] ?? head, ...rest].join(' ')
}
