import {
  changedMirrors,
  copiesAmong,
  MOST_NAMED,
  type ChangedMirror,
  untiedAfter,
} from '../../data/repositories/to-plan.ts'
import { parentsOf, subtasksIn } from '../../data/repositories/subtasks.ts'
import {
  isMadeByRule,
  type Answer,
  type Field,
  type Mirror,
  type PlanInput,
  type Rule,
  type Side,
  SIDES,
} from '@loom/core'
import { idFor } from '../../access/secrets.ts'
import type { Sql } from '../../data/database.ts'
import { chunks } from '../../data/chunks.ts'
import { mirrorOf, mirrorsById, type OnRead } from '../../data/repositories/mirrors.ts'
import { transitiveTies } from './transitive-ties.ts'
import { datesToCome } from '../rules/series-dates.ts'
import { earlierRules, endedTies, tieOf } from '../rules/ties.ts'
import { openWrites } from '../../data/repositories/intents.ts'
import { movingIn } from '../../data/repositories/moves.ts'
import { seriesWithDates } from '../../data/repositories/series.ts'
import { vanishedLists } from '../../data/repositories/sides.ts'

import { tiesOfRule, type TieRow, tiesOn } from '../../data/repositories/ties.ts'
import { answersToConflicts } from '../../data/repositories/conflicts.ts'
import { tiesToRestore } from '../../data/repositories/braked.ts'
import type { RuleRow } from '../../data/repositories/rules.ts'
import { parsed } from '../../data/json.ts'

/** Loads what the planner needs of one rule. Pass and preview both come through here. */

/**
 * The planner's input. With `since`, only pairs with a side changed after that number, and untied items only if
 * they changed: the cost follows the changes. `row` is the rule as stored; its ties may be of an earlier version.
 * `onAhead`: with the dates of series that a pass would unroll first, each told of.
 */
export async function planInput(
  sql: Sql,
  rule: Rule,
  row: RuleRow | null,
  since: number | null,
  now: number,
  {
    onRead,
    onAhead,
  }: { onRead?: OnRead; onAhead?: (date: { seriesId: string; mirror: Mirror }) => void } = {},
): Promise<PlanInput> {
  const collections = [...rule.collections.a, ...rule.collections.b]
  const changed = since === null ? null : await changedSince(sql, rule, since)
  const ties = await tiesToPlan(sql, rule, changed)
  const sides = await mirrorsById(
    sql,
    ties.flatMap(t => [t.a_mirror, t.b_mirror]).filter(id => id !== null),
    onRead,
  )
  const was = await earlierRules(sql, rule, row, ties)
  const children = await childrenOf(sql, rule, [...sides.values()])
  const pairs = ties.map(t => {
    const a = sides.get(t.a_mirror ?? '') ?? null
    const parts = a ? children.get(a.id) : undefined
    return {
      tie: tieOf(t),
      a,
      b: sides.get(t.b_mirror ?? '') ?? null,
      ...was(t),
      ...(parts && { children: parts }),
    }
  })
  // Blocks and batches are tied when they are made, not here.
  const untied = row?.own === 1 ? { a: [], b: [] } : await untiedOf(sql, rule)
  const [open, moving, answers, vanished] = await Promise.all([
    openWrites(sql, { a: rule.home.a }),
    movingIn(sql, { a: rule.home.a }),
    answersOf(sql, rule),
    vanishedLists(sql, { home: rule.home.a }),
  ])
  const busy = new Set(open.flatMap(i => [i.mirror_id, i.a, i.b].filter(id => id !== null)))
  // An item on its way to another list does not count as untied.
  for (const { id } of moving) busy.add(id)
  // What is in a list that cannot be found waits until it can be.
  if (vanished.size > 0)
    for (const m of [...sides.values(), ...untied.a, ...untied.b])
      if (vanished.has(m.collectionId)) busy.add(m.id)
  const ofRules = [...untied.a, ...untied.b].filter(m => isMadeByRule(m.item.uid)).map(m => m.id)
  const copies = new Set<string>()
  for (const ids of chunks(ofRules)) for (const m of await copiesAmong(sql, { ids })) copies.add(m.id)
  const { transitive, elsewhere } = await transitiveTies(sql, rule, untied, busy)
  const untiedIds = [...untied.a, ...untied.b, ...transitive.values()].map(m => m.id)
  return {
    rule,
    pairs,
    untied,
    released: await endedTies(sql, rule, row, untiedIds),
    transitive,
    elsewhere,
    ...answers,
    busy,
    copies,
    pendingUids: new Set(open.flatMap(i => i.uid ?? [])),
    now,
    idFor,
  }

  async function untiedOf(db: Sql, of: Rule): Promise<Record<Side, Mirror[]>> {
    const tied = new Set(ties.flatMap(t => (t.role === 'mirror' ? [t.a_mirror, t.b_mirror] : [t.b_mirror])))
    // Most changes are of pairs: what is untied is only looked through when something untied has changed.
    const any =
      changed === null ||
      changed.some(c => isThere(c) && collections.includes(c.collection_id) && !tied.has(c.id))
    if (!any) return { a: [], b: [] }
    const inDates = of.settings.series === 'dates'
    const presence = inDates ? ['present', 'date'] : ['present']
    const mirrors: Mirror[] = []
    // A series is its dates, where it has any.
    const unrolled = new Set<string>()
    for (let after = ''; ;) {
      const rows = await untiedAfter(db, { rule: of.id, collections, presence, after, most: PART })
      for (const row of rows) {
        mirrors.push(mirrorOf(row))
        if (row.series_id) unrolled.add(row.series_id)
      }
      onRead?.(rows.length)
      after = rows.at(-1)?.id ?? ''
      if (rows.length < PART) break
    }
    for (const date of inDates && onAhead ? await datesToCome(now, db, of) : []) {
      mirrors.push(date.mirror)
      unrolled.add(date.seriesId)
      onAhead?.(date)
    }
    if (inDates) for (const t of await seriesWithDates(db, { collections })) unrolled.add(t.id)
    // In the order of first appearance.
    mirrors.sort((x, y) => x.firstSeenAt - y.firstSeenAt || (x.id < y.id ? -1 : 1))
    const on = (side: Side) =>
      mirrors
        .filter(m => !unrolled.has(m.id))
        .filter(m => m.item.kind === of.kinds[side] && of.collections[side].includes(m.collectionId))
    return { a: on('a'), b: on('b') }
  }
}

/** Untied items are read this many at a time. */
const PART = 5000

const isThere = ({ presence }: ChangedMirror): boolean => presence === 'present' || presence === 'date'

/** All changes after that number, because a tie follows its item to any list. Null if there are too many to name. */
async function changedSince(sql: Sql, rule: Rule, since: number): Promise<ChangedMirror[] | null> {
  const rows = await changedMirrors(sql, { since, home: rule.home.a })
  return rows.length > MOST_NAMED ? null : rows
}

async function tiesToPlan(sql: Sql, rule: Rule, changed: ChangedMirror[] | null): Promise<TieRow[]> {
  if (changed === null) return tiesOfRule(sql, { rule: rule.id })
  const found = new Map<string, TieRow>()
  const add = (rows: TieRow[]): void => rows.forEach(row => void found.set(row.id, row))
  const ofEither = async (ids: readonly string[]): Promise<void> => {
    for (const part of chunks(ids)) {
      const found = await Promise.all(SIDES.map(side => tiesOn(sql, side, { rule: rule.id, part })))
      found.forEach(add)
    }
  }
  await ofEither(changed.map(c => c.id))
  // A changed item is planned with everything it is tied to: blocks follow their task, and an event that is
  // gone gives way to the next of them.
  const tasks = new Set([...found.values()].flatMap(t => t.a_mirror ?? []))
  if (rule.settings.subtasks === 'listed')
    for (const part of chunks(changed.map(c => c.id)))
      for (const p of await parentsOf(sql, { part })) tasks.add(p.id)
  for (const part of chunks([...tasks])) add(await tiesOn(sql, 'a', { rule: rule.id, part }))
  return [...found.values()]
}

/** The sub-tasks of tasks, where the rule lists them. */
async function childrenOf(sql: Sql, rule: Rule, mirrors: Mirror[]): Promise<Map<string, Mirror[]>> {
  const found = new Map<string, Mirror[]>()
  if (rule.settings.subtasks !== 'listed' || mirrors.length === 0) return found
  const rows = await subtasksIn(sql, { collections: rule.collections.a })
  const parents = new Map(mirrors.flatMap(m => [[m.item.uid, m.id] as const, [m.remoteId, m.id] as const]))
  for (const m of mirrors) if (m.item.kind === 'task') found.set(m.id, [])
  for (const child of rows.map(mirrorOf)) {
    const parent = child.item.kind === 'task' ? parents.get(child.item.parent ?? '') : undefined
    if (parent) found.get(parent)?.push(child)
  }
  return found
}

/** What people answered to this rule's conflicts and to its brake. */
async function answersOf(sql: Sql, rule: Rule): Promise<Required<Pick<PlanInput, 'answers' | 'restore'>>> {
  const answers = new Map<string, Partial<Record<Field, Answer>>>()
  const [toConflicts, restore] = await Promise.all([
    answersToConflicts(sql, { id: rule.id }),
    tiesToRestore(sql, { id: rule.id }),
  ])
  for (const c of toConflicts)
    answers.set(c.tie_id, { ...answers.get(c.tie_id), [c.field]: parsed(c.answer) })
  return { answers, restore: new Set(restore.map(r => r.tie_id)) }
}
