import type { Item } from '../../items/items.ts'
import type { PastWrite } from '../merge/alternation.ts'
import { roundOf } from '../model/rounds.ts'
import { BUSY } from '../lenses/veiled.ts'
import { lensesOf, patchOf, splitMark, UNTITLED, type Values } from '../lenses/index.ts'
import type { Merged } from '../merge/merge.ts'
import {
  type Answer,
  type Decision,
  type DecisionReason,
  type FieldChange,
  type Mirror,
  otherSide,
  type PlannedWrite,
  type ReleaseReason,
  type Rule,
  type Side,
  type Tie,
} from '../model/types.ts'
import type { Field } from '../model/settings.ts'

/** What the parts of the planner are given and how they say what they decided. */

/** `was`: the rule under which the two last agreed, where it has been edited since. */
export interface EndedTie extends Tie {
  was?: Rule
}

export interface PlanInput {
  rule: Rule
  /**
   * Active ties with the current items of both sides. A side is null while it is being created. `was` is the rule
   * under which the two last agreed, if it was edited since.
   */
  pairs: { tie: Tie; a: Mirror | null; b: Mirror | null; children?: readonly Mirror[]; was?: Rule }[]
  /** Present items on each side that no active tie of this rule holds. */
  untied: Record<Side, Mirror[]>
  /** The last ended tie of an item, by mirror id. */
  released: ReadonlyMap<string, EndedTie>
  /** For an untied item: one on the other side that other rules hold for the same work already. */
  transitive?: ReadonlyMap<string, Mirror>
  /**
   * Untied items that other rules hold, with the collections that already contain the same work. Such an item was
   * not made by a person on this side.
   */
  elsewhere?: ReadonlyMap<string, ReadonlySet<string>>
  /** Answers to conflicts, by tie. */
  answers?: ReadonlyMap<string, Partial<Record<Field, Answer>>>
  /** Recently confirmed writes of rules, newest first, by mirror id. Alternation is detected from them. */
  past?: ReadonlyMap<string, readonly PastWrite[]>
  /** Ties of which a person said that the missing side is to be restored, or that an older version of a side stands. */
  restore?: ReadonlySet<string>
  /**
   * Mirrors with a write under way for them or for their tied item. They are planned again when it is confirmed.
   * So rules that meet take turns, and values cannot chase each other round a ring.
   */
  busy: ReadonlySet<string>
  /**
   * Untied items that bear the uid of something else that stands here: somebody has copied it. What we made, and a
   * person copied, is that person's new item.
   */
  copies?: ReadonlySet<string>
  /** Of the uids that would be given to what is made: those that stand for something here, or did. */
  usedUids?: ReadonlySet<string>
  /** Uids of creations under way, so that their items are not mistaken for new ones. */
  pendingUids: ReadonlySet<string>
  /** Epoch ms. */
  now: number
  /** The same key gives the same id, so that a plan made twice makes one thing. */
  idFor: (key: string) => string
}

export type Verdict = Pick<Decision, 'effect' | 'on' | 'reason'>
export interface Sides {
  tie: Tie | null
  a: Mirror | null
  b: Mirror | null
}

export const emptyTie = (id: string, a: string | null, b: string | null): Tie => ({
  id,
  role: 'mirror',
  a,
  b,
  base: {},
  memory: {},
  released: null,
})
export const ended = (tie: Tie, released: ReleaseReason): Tie => ({ ...tie, released })

const titleOf = (item: Item | undefined, mark: string): string =>
  item?.kind === 'event' ? splitMark(item.summary, mark).title : (item?.summary ?? '')

/** How a pair, or half of one, is called to people. */
export const titleOfPair = (
  rule: Rule,
  { tie, a, b }: Pick<Sides, 'a' | 'b'> & { tie?: Tie | null },
): string =>
  (rule.veil || tie?.memory.veil ? BUSY : '') ||
  titleOf(a?.item, rule.settings.mark) ||
  titleOf(b?.item, rule.settings.mark) ||
  UNTITLED

export function decision(rule: Rule, verdict: Verdict, sides: Sides, rest: Partial<Decision> = {}): Decision {
  const { tie, a, b } = sides
  const title = titleOfPair(rule, sides)
  const ids = { a: a?.id ?? null, b: b?.id ?? null }
  return { ...verdict, title, ...ids, tie, writes: [], overridden: [], held: [], ...rest }
}

/** `task-edited` where the kinds differ, else `a-edited`. */
export function reasonOn(rule: Rule, side: Side, what: 'edited' | 'deleted'): DecisionReason {
  return rule.kinds.a === rule.kinds.b ? `${side}-${what}` : `${rule.kinds[side]}-${what}`
}

/** The write that brings what a merge asks of one side; null when it asks nothing. */
export function patchWrite(
  rule: Rule,
  tie: Tie,
  side: Side,
  m: Mirror,
  merged: Pick<Merged, 'values' | 'changes' | 'expect'>,
): PlannedWrite | null {
  const changes = merged.changes[side]
  if (changes.length === 0) return null
  const patch = patchOf(rule, side, merged.values[side], m.item)
  const round = patch.status === 'completed' ? roundOf(m.item) : null
  return {
    op: 'patch',
    side,
    tieId: tie.id,
    mirrorId: m.id,
    revision: m.revision,
    patch,
    fields: changes,
    expect: { ...merged.expect[side] },
    release: null,
    ...(round !== null && { occurrence: round }),
  }
}

/** Everything an item held is named, so that the journal can give it back. */
export function removal(rule: Rule, tie: Tie, side: Side, m: Mirror, release: ReleaseReason): PlannedWrite {
  return {
    op: 'delete',
    side,
    tieId: tie.id,
    mirrorId: m.id,
    revision: m.revision,
    fields: lensesOf(rule).map(l => ({
      field: l.field,
      before: l.read(side, m.item, tie.base[l.field]?.[side]),
      after: null,
    })),
    expect: {},
    release,
  }
}

/** One change that is not the outcome of a merge, such as clearing the date of a task. */
export function singleChange(
  rule: Rule,
  tie: Tie,
  side: Side,
  m: Mirror,
  change: FieldChange & { field: Field },
  release: ReleaseReason | null,
): PlannedWrite {
  const values: Values = { [change.field]: change.after }
  const other = tie.base[change.field]?.[otherSide(side)] ?? null
  const lens = lensesOf(rule).find(l => l.field === change.field)
  return {
    op: 'patch',
    side,
    tieId: tie.id,
    mirrorId: m.id,
    revision: m.revision,
    patch: lens ? patchOf(rule, side, values, m.item) : {},
    fields: [change],
    expect: { [change.field]: side === 'a' ? { a: change.after, b: other } : { a: other, b: change.after } },
    release,
  }
}
