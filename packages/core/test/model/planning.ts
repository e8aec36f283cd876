import {
  ALTERNATION_WINDOW_MS,
  type EndedTie,
  isOver,
  lensesOf,
  type Mirror,
  otherSide,
  type PastWrite,
  type PlanInput,
  type Rule,
  type Side,
  type Tie,
} from '../../src/index.ts'
import { BUSY_BACK } from './bugs.ts'
import { type Intent, type World, ZONE } from './world.ts'

/** What the planner is given of a world. */

export function inputFor(world: World, rule: Rule): PlanInput {
  const { bug } = world
  const active = [...world.ties.values()].filter(t => t.rule === rule.id && !t.released)
  const held = new Set(active.flatMap(t => [t.a, t.b]))
  const free = (side: Side): Mirror[] =>
    [...world.mirrors.values()].filter(
      m => rule.collections[side].includes(m.collectionId) && m.presence === 'present' && !held.has(m.id),
    )
  const wasFor = ({ version }: { version: number }): { was?: Rule } => {
    const was = world.versions.get(rule.id)?.[version]
    return was && was !== rule ? { was } : {}
  }
  const released = new Map<string, EndedTie>()
  if (bug !== 'forgets that a pair has ended')
    for (const t of world.ties.values())
      if (t.rule === rule.id && t.released)
        for (const id of [t.a, t.b]) if (id) released.set(id, { ...asRemembered(world, t), ...wasFor(t) })
  const untied = { a: free('a'), b: free('b') }
  const busy = new Set<string>(
    bug === 'plans what is under way once more' ? [] : world.intents.flatMap(i => concernedBy(world, i)),
  )
  return {
    rule,
    pairs: active.map(tie => {
      const base =
        bug === 'compares the two sides with each other, not with what they agreed on' ? {} : tie.base
      const [a, b] = [seenAs(world, rule, tie.a), seenAs(world, rule, tie.b)]
      return {
        tie: { ...unveiled(world, tie), base: withoutEdits(world, rule, { a, b }, base) },
        a,
        b,
        ...wasFor(tie),
      }
    }),
    untied,
    released,
    ...transitiveTies(world, rule, untied, busy),
    answers: world.answers,
    ...(bug !== 'pulls to and fro for ever' && { past: pastWrites(world) }),
    busy,
    copies: new Set(
      [...untied.a, ...untied.b].flatMap(m =>
        [...world.mirrors.values()].some(
          o => o.id !== m.id && o.item.uid === m.item.uid && o.presence !== 'gone',
        )
          ? [m.id]
          : [],
      ),
    ),
    usedUids: new Set([
      ...[...world.mirrors.values()].map(m => m.item.uid),
      ...world.intents.flatMap(i => (i.by === 'rule' && i.write.op === 'create' ? [i.write.item.uid] : [])),
    ]),
    pendingUids: new Set(
      bug === 'forgets what it is making' || bug === 'plans what is under way once more'
        ? []
        : world.intents.flatMap(i => (i.by === 'rule' && i.write.op === 'create' ? [i.write.item.uid] : [])),
    ),
    now: world.now,
    idFor: world.idFor,
  }
}

/** With the bug, it is forgotten for what a pair ended. */
function asRemembered({ bug }: World, tie: ReturnType<World['activeTies']>[number]): typeof tie {
  const { deletion: gone } = tie.memory
  if (bug === 'takes what went for a deletion for what was deleted' && gone?.removed !== undefined) {
    const side = otherSide(gone.side)
    const deletion = { side, at: gone.at, modified: null, removed: gone.removed }
    return { ...tie, released: `${side}-deleted`, memory: { ...tie.memory, deletion } }
  }
  if (bug !== 'takes what is back for nobody’s new item') return tie
  const { deletion: _, ...memory } = tie.memory
  return { ...tie, memory }
}

/** With the bug, what is private is so only when it is made. */
function unveiled({ bug }: World, tie: Tie): Tie {
  if (bug !== BUSY_BACK) return tie
  const { veil: _, ...memory } = tie.memory
  return { ...tie, memory }
}

/** With the bug, what was edited beside a deletion is forgotten. */
function withoutEdits(
  { bug }: World,
  rule: Rule,
  { a, b }: Record<Side, Mirror | null>,
  base: Tie['base'],
): Tie['base'] {
  const isEnding = a?.presence === 'gone' || b?.presence === 'gone'
  if (bug !== 'lets a deletion beat an edit of what it would remove' || !isEnding || !a || !b) return base
  const now = { ...base }
  for (const lens of lensesOf(rule))
    if (now[lens.field])
      now[lens.field] = { a: lens.read('a', a.item, undefined), b: lens.read('b', b.item, undefined) }
  return now
}

/** A write is under way for both sides of its tie: rules that meet take turns. */
function concernedBy(world: World, i: Intent): string[] {
  if (i.by === 'person') return [i.mirror]
  const tie = world.ties.get(i.write.tieId)
  return [tie?.a, tie?.b, 'mirrorId' in i.write ? i.write.mirrorId : null].filter(
    id => typeof id === 'string',
  )
}

function pastWrites(world: World): Map<string, PastWrite[]> {
  const past = new Map<string, PastWrite[]>()
  for (const { rule, op, fields, mirror, at, sure } of world.journal.toReversed()) {
    if (rule === '' || op !== 'patch' || !sure || at <= world.now - ALTERNATION_WINDOW_MS) continue
    past.set(mirror, [...(past.get(mirror) ?? []), { rule, name: rule, fields }])
  }
  return past
}

/** With the first bug, that an event is private is overlooked; with the second, that a task repeats is overlooked; with the other, that an event names a zone of its own. */
function seenAs(world: World, rule: Rule, id: string | null): Mirror | null {
  const m = world.mirrors.get(id ?? '') ?? null
  if (world.bug === BUSY_BACK && m?.item.kind === 'event')
    return { ...m, item: { ...m.item, class: 'public' } }
  if (
    world.bug === 'takes the day of an event where that is, not where the rule is' &&
    m?.item.kind === 'event' &&
    m.item.time.anchor.kind === 'zoned' &&
    rule.terms.a.precision === 'day'
  ) {
    const anchor = { ...m.item.time.anchor, zone: ZONE }
    return { ...m, item: { ...m.item, time: { ...m.item.time, anchor } } }
  }
  if (world.bug !== 'takes a round that is over for a date that was moved') return m
  return m && { ...m, item: { ...m.item, recurring: false } }
}

function transitiveTies(
  world: World,
  rule: Rule,
  untied: Record<Side, Mirror[]>,
  busy: Set<string>,
): Required<Pick<PlanInput, 'transitive' | 'elsewhere'>> {
  const transitive = new Map<string, Mirror>()
  const elsewhere = new Map<string, ReadonlySet<string>>()
  if (world.rules.length < 2) return { transitive, elsewhere }
  const isOverNow = (t: Tie): boolean =>
    [t.a, t.b].some(id => {
      const one = world.mirrors.get(id ?? '')
      return one !== undefined && isOver(t, one.item)
    })
  const ties = [...world.ties.values()].filter(
    // What is made again is the same work, also by this rule, unless that was a round which is over.
    t => t.a && t.b && (t.released ? t.released.endsWith('-again') && !isOverNow(t) : t.rule !== rule.id),
  )
  const mine = new Set(
    [...world.ties.values()].filter(t => !t.released && t.rule === rule.id).flatMap(t => [t.a, t.b]),
  )
  /** Where it is, and where other rules would have it: it may have been moved to another list since. */
  const homesOf = (o: Mirror): string[] => [
    o.collectionId,
    ...ties.flatMap(t => {
      const home = world.rules.find(r => r.id === t.rule)?.home
      return home ? [...(t.a === o.id ? [home.a] : []), ...(t.b === o.id ? [home.b] : [])] : []
    }),
  ]
  for (const side of ['a', 'b'] as const)
    for (const m of untied[side]) {
      const group = new Set([m.id])
      for (let grown = true; grown;) {
        grown = false
        for (const t of ties)
          if (group.has(t.a ?? '') !== group.has(t.b ?? '')) {
            group.add(t.a ?? '').add(t.b ?? '')
            grown = true
          }
      }
      const there = [...group].flatMap(id => world.mirrors.get(id) ?? []).filter(o => o.presence !== 'gone')
      if (group.size > 1) elsewhere.set(m.id, new Set(there.flatMap(o => homesOf(o).slice(1))))
      // Something is being made for the same work: whether it is to be had here shows when it is there.
      const ending = [...world.ties.values()].some(
        t =>
          !t.released &&
          (group.has(t.a ?? '') || group.has(t.b ?? '')) &&
          (isOverNow(t) || [t.a, t.b].some(id => world.mirrors.get(id ?? '')?.presence === 'gone')),
      )
      if (
        ([...group].some(id => busy.has(id)) || ending) &&
        world.bug !== 'does not follow ties round a ring'
      )
        busy.add(m.id)
      if (world.bug === 'does not follow ties round a ring') continue
      const found = [...group]
        .map(id => world.mirrors.get(id))
        .find(
          o =>
            o &&
            o.id !== m.id &&
            o.presence === 'present' &&
            homesOf(o).some(home => rule.collections[otherSide(side)].includes(home)) &&
            !mine.has(o.id),
        )
      if (found) transitive.set(m.id, found)
    }
  return { transitive, elsewhere }
}
