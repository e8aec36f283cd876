import { type ClothItem, dayAt, type Edit, lengthOf, mondayOf } from '@loom/core/view'

/** All that can be done to an item, once: its menu, its keys and the bar for several are read from this list. */

export const ACTS = {
  open: { key: 'o', says: 'open everything about it' },
  choose: { key: 'c', says: 'select' },
  place: { key: 'p', says: 'place at a day and hour' },
  block: { key: 'b', says: 'reserve further time for it' },
  rename: { key: 'r', says: 'rename' },
  'any-day': { key: 'w', says: 'any day this week' },
  'put-by': { key: 'y', says: 'put by until later' },
  give: { key: 'g', says: 'give to somebody' },
  'leave-out': { key: 'l', says: 'leave out of my plan, or take in again' },
  cancel: { key: 'x', says: 'cancel task' },
  duplicate: { key: 'd', says: 'duplicate' },
  clock: { key: 'k', says: 'start the clock on it, or stop it' },
  move: { key: 'm', says: 'move to another list or calendar' },
} as const
export type Act = keyof typeof ACTS
export const isAct = (name: string): name is Act => name in ACTS

/** Dialogs and panels that a command opens. */
export type AskedAct = Exclude<Act, 'choose' | 'any-day' | 'leave-out' | 'cancel' | 'clock'>

export type Outcome =
  | { kind: 'edit'; edit: Edit }
  | { kind: 'ask'; act: AskedAct }
  /** A block's time is worked, and its task is done with it. */
  | { kind: 'finish' }
  /** The clock of whoever asks. */
  | { kind: 'clock'; runs: boolean }
  /** Whoever it belongs to is asked to show more of it. */
  | { kind: 'see' }

export interface CommandTerms {
  zone: string
  defaultMinutes: number
  /** Epoch ms. */
  now: number
  /** What a block is time for. */
  task: ClothItem | null
  /** Nothing may be changed. */
  onlyLooks: boolean
  /** What the clock of whoever asks runs for. */
  clocked: string | null
  /** Properties and statuses that its service has no room for. */
  unsupported: readonly string[]
}

export interface Command {
  /** What it is called for this item. */
  name: (item: ClothItem) => string
  fits: (item: ClothItem, terms: CommandTerms) => boolean
  /** Where it fits and is still not worth a line of the menu. */
  isHidden?: (item: ClothItem) => boolean
  outcome: (item: ClothItem, terms: CommandTerms) => Outcome
  /** The key of an act, which a person can change; else a fixed key, as shown and as pressed. */
  key?: Act | { says: string; pressed?: readonly string[] }
  /** On the bar for several chosen items. */
  several?: string
  /** Also for whom the item may only be looked at. */
  ofLookers?: true
  /** Also where only that time is taken is seen. */
  ofBusy?: true
}

export const isTask = (item: ClothItem): boolean => item.kind === 'task' || item.kind === 'tied'
const hasPlace = (item: ClothItem): boolean => item.place.kind !== 'none'
const canPlan = (item: ClothItem): boolean => !item.done && item.movable
/** Time of a block goes into its task. */
const clockedAs = (item: ClothItem): string => item.of ?? item.key.split('@')[0] ?? item.key
const canBeClocked = (item: ClothItem): boolean => item.kind !== 'batch' && !item.key.startsWith('new ')
const edit = (e: Edit): Outcome => ({ kind: 'edit', edit: e })
const ask = (act: AskedAct, more: Omit<Command, 'outcome' | 'key'>): Command => ({
  ...more,
  key: act,
  outcome: () => ({ kind: 'ask', act }),
})
const SPACE = { says: 'Space', pressed: [' '] }
const DELETE = { says: 'Delete', pressed: ['Delete', 'Backspace'] }
const byQuarter = (item: ClothItem, { defaultMinutes }: CommandTerms, sign: 1 | -1): number =>
  lengthOf(item, defaultMinutes) + sign * 15

/** In the order of the menu. */
export const COMMANDS: readonly Command[] = [
  ask('open', { name: () => 'Open', fits: () => true, ofLookers: true }),
  {
    name: item => (item.done ? 'Reopen' : item.recurring ? 'Complete this occurrence' : 'Complete'),
    fits: item => isTask(item) && item.completable,
    outcome: item => edit({ do: item.done ? 'reopen' : 'complete' }),
    key: SPACE,
    several: 'Complete',
    ofLookers: true,
  },
  {
    name: () => 'Cancel task',
    fits: (item, { unsupported }) =>
      isTask(item) && item.completable && (item.cancelled || !unsupported.includes('status:cancelled')),
    isHidden: item => item.done,
    outcome: item => edit({ do: item.cancelled ? 'reopen' : 'cancel' }),
    key: 'cancel',
  },
  {
    name: item => (item.done ? 'Mark time as not worked' : 'Mark time as worked'),
    fits: item => item.kind === 'block',
    outcome: item => edit({ do: 'spend', spent: !item.done }),
    key: SPACE,
  },
  {
    name: () => 'Mark as worked, and complete its task',
    fits: (item, { task }) => item.kind === 'block' && !item.done && task?.completable === true && !task.done,
    outcome: () => ({ kind: 'finish' }),
  },
  {
    name: () => 'Start the clock',
    fits: (item, { clocked }) => canBeClocked(item) && clocked !== clockedAs(item),
    isHidden: item => item.done,
    outcome: () => ({ kind: 'clock', runs: true }),
    key: 'clock',
    ofLookers: true,
  },
  {
    name: () => 'Stop the clock',
    fits: (item, { clocked }) => clocked !== null && clocked === clockedAs(item),
    outcome: () => ({ kind: 'clock', runs: false }),
    key: 'clock',
    ofLookers: true,
  },
  ask('place', {
    name: item => (hasPlace(item) ? 'Move to…' : 'Place at…'),
    fits: item => item.movable,
    several: 'Place at…',
  }),
  {
    name: () => 'Longer by 15 min',
    fits: item => item.movable && item.place.kind === 'timed',
    outcome: (item, terms) => edit({ do: 'lengthen', minutes: byQuarter(item, terms, 1) }),
    key: { says: 'Shift →' },
  },
  {
    name: () => 'Shorter by 15 min',
    fits: (item, terms) => item.movable && item.place.kind === 'timed' && byQuarter(item, terms, -1) > 0,
    outcome: (item, terms) => edit({ do: 'lengthen', minutes: byQuarter(item, terms, -1) }),
    key: { says: 'Shift ←' },
  },
  ask('block', {
    name: () => 'A further block…',
    fits: isTask,
    isHidden: item => item.done || !hasPlace(item),
  }),
  {
    name: () => 'Any day this week',
    fits: isTask,
    isHidden: item => !canPlan(item),
    outcome: (_, { now, zone }) => edit({ do: 'any-day', week: mondayOf(dayAt(now, zone)) }),
    key: 'any-day',
    several: 'Any day this week',
  },
  ask('put-by', {
    name: () => 'Put by until…',
    fits: isTask,
    isHidden: item => !canPlan(item) || item.putBy !== null,
    several: 'Put by…',
  }),
  {
    name: () => 'Back from what was put by',
    fits: item => isTask(item) && item.putBy !== null,
    isHidden: item => !canPlan(item),
    outcome: () => edit({ do: 'put-by', until: null }),
  },
  ask('give', {
    name: item => (item.onlyLook ? 'Ask that it be given to…' : 'Assign to…'),
    fits: isTask,
    isHidden: item => item.done,
    several: 'Assign to…',
    ofLookers: true,
  }),
  {
    name: () => 'Ask to see more…',
    fits: item => item.onlyLook && (item.sources.length > 0 || item.people.length === 1),
    outcome: () => ({ kind: 'see' }),
    ofLookers: true,
    ofBusy: true,
  },
  {
    name: () => 'Back to the shelf',
    fits: item => isTask(item) && hasPlace(item),
    isHidden: item => !canPlan(item),
    outcome: () => edit({ do: 'unplace' }),
    key: DELETE,
    several: 'To the shelf',
  },
  {
    name: item => (item.movable ? 'Mark fixed' : 'Mark flexible'),
    fits: item => item.kind === 'event' && !item.recurring,
    outcome: item => edit({ do: 'fix', movable: !item.movable }),
  },
  {
    name: item => (item.leftOut ? 'Include in my plan' : 'Exclude from my plan'),
    fits: () => true,
    outcome: item => edit({ do: 'leave-out', out: !item.leftOut }),
    key: 'leave-out',
    ofLookers: true,
  },
  ask('rename', { name: () => 'Rename…', fits: item => (isTask(item) ? item.completable : item.movable) }),
  ask('duplicate', { name: () => 'Duplicate', fits: () => true }),
  ask('move', {
    name: () => 'Move to another list…',
    fits: () => true,
    isHidden: item => item.recurring || !(isTask(item) || item.movable),
  }),
  {
    name: () => 'Delete…',
    fits: () => true,
    outcome: () => edit({ do: 'delete' }),
  },
]

const isOffered = (c: Command, item: ClothItem, terms: CommandTerms): boolean => {
  if ((item.onlyBusy && !c.ofBusy) || !c.fits(item, terms)) return false
  if (terms.onlyLooks) return c.key === 'open'
  return !item.onlyLook || c.ofLookers === true
}

/** What a key does to an item: an act's key, as this person has it, or a fixed one. Null where it means nothing. */
export function outcomeOfKey(
  item: ClothItem,
  pressed: string,
  keyOf: (act: Act) => string,
  terms: CommandTerms,
): Outcome | null {
  const isPressed = ({ key }: Command): boolean =>
    typeof key === 'string' ? keyOf(key) === pressed : (key?.pressed?.includes(pressed) ?? false)
  const found = COMMANDS.find(c => isPressed(c) && isOffered(c, item, terms))
  if (found) return found.outcome(item, terms)
  // An item without a place on the shelf is deleted, after a question.
  return !terms.onlyLooks && DELETE.pressed.includes(pressed) && !isTask(item) && item.movable
    ? edit({ do: 'delete' })
    : null
}

/** What the menu of an item offers. Nothing for what is still being made. */
export const menuOf = (item: ClothItem, terms: CommandTerms): Command[] =>
  item.key.startsWith('new ')
    ? []
    : COMMANDS.filter(c => isOffered(c, item, terms) && c.isHidden?.(item) !== true)
