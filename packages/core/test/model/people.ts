import {
  asInPatch,
  type Field,
  givenUp,
  type ItemPatch,
  otherSide,
  type Side,
  undoOf,
} from '../../src/index.ts'
import { type Name, targetOf, type World } from './world.ts'

/** What people do in our own screens: edits, answers to conflicts, putting back. */

/** Takes back the last write that can be taken back; says what was to come of it. */
export function undo(world: World, pick: number): { mirror: string; want: [Field, unknown][] } | null {
  const { journal } = world
  const entry = journal[journal.length - 1 - (pick % Math.max(1, journal.length))]
  const rule = entry && world.rules.find(r => r.id === entry.rule)
  // Where the pair was tied anew since, it is that tie which holds what is put back apart.
  const tie =
    entry &&
    (world.activeTies().find(t => t.rule === entry.rule && t[entry.side] === entry.mirror) ??
      world.ties.get(entry.tie))
  const now = entry && world.mirrors.get(entry.mirror)
  if (!entry || !rule || !tie || !now || world.intents.length > 0) return null
  const other = world.mirrors.get(tie[otherSide(entry.side)] ?? '') ?? null
  const undone = undoOf(rule, entry, tie, now, other?.presence === 'present' ? other : null, false)
  const service = world.serviceOf(entry.mirror)
  if (undone.kind !== 'patch' || service.items.get(now.remoteId)?.revision !== now.revision) return null
  service.patch('them', now.remoteId, undone.patch)
  world.tookBack = true
  if (world.bug !== 'puts back without holding apart')
    world.ties.set(tie.id, {
      ...(world.ties.get(tie.id) ?? { ...tie, rule: rule.id, version: 0, count: 0, at: 0 }),
      memory: { ...tie.memory, apart: { ...tie.memory.apart, ...undone.apart } },
    })
  // Until its service has confirmed it, nothing is planned for it.
  world.observeAll()
  return { mirror: entry.mirror, want: undone.fields.map(f => [f.field as Field, f.after]) }
}

/** What waits for a person now. */
export function conflicts(world: World): World['given'] {
  return world.rules.flatMap(rule =>
    world
      .plan(rule)
      .flatMap(d =>
        d.held.flatMap(h =>
          h.conflict && d.tie
            ? [{ tie: d.tie.id, field: h.field, now: { a: h.conflict.a, b: h.conflict.b } }]
            : [],
        ),
      ),
  )
}

export function answer(world: World, pick: number, take: Side): void {
  const waiting = conflicts(world)
  const one = waiting[pick % Math.max(1, waiting.length)]
  if (!one) return
  world.given.push(one)
  world.answers.set(one.tie, { ...world.answers.get(one.tie), [one.field]: { ...one.now, take } })
}

/** With the bug, nobody is waited for. */
export function renewAnswers(world: World): void {
  if (world.bug !== 'answers in place of the person') return
  for (const { tie, field, now } of conflicts(world))
    world.answers.set(tie, { ...world.answers.get(tie), [field]: { ...now, take: 'a' } })
}

/** Somebody edits an item here: what a rule had in mind for it, and has not sent, is decided anew. */
export function editHere(world: World, mirror: string, patch: ItemPatch): void {
  const m = world.mirrors.get(mirror)
  if (m?.presence !== 'present') return
  world.intents = world.intents.filter(i => i.by !== 'rule' || i.tried || targetOf(i) !== mirror)
  const { item } = m
  const before = asInPatch(item, patch)
  const round =
    item.kind === 'task' && item.recurring && patch.status === 'completed' ? item.occurrence : null
  const last = world.intents.findLast(i => i.by === 'person' && i.mirror === mirror)
  if (last?.by === 'person' && !last.tried) {
    last.patch = { ...last.patch, ...patch }
    last.before = { ...before, ...last.before }
    last.occurrence = last.patch.status === 'completed' ? (round ?? last.occurrence) : null
    return
  }
  world.intents.push({ by: 'person', mirror, patch, before, occurrence: round, tried: false })
}

/** What somebody says of a creation of which nobody can tell; `look`: it may be known by now. */
export type Word = 'look' | 'make' | 'leave'

/** Of all that are asked about. Nobody says that it is to be made who sees that it is there. */
export function say(world: World, word: Word): void {
  for (const intent of [...world.intents]) {
    if (intent.by !== 'rule' || !intent.asks || intent.write.op !== 'create') continue
    const { write } = intent
    const name = world.rules.find(r => r.id === intent.rule)?.home[write.side] as Name
    intent.nextTry = 0
    if (word === 'make' && world.services[name].byUid(write.item.uid).length === 0)
      Object.assign(intent, { tried: false, asks: false })
    if (word !== 'leave') continue
    world.intents = world.intents.filter(i => i !== intent)
    const tie = world.ties.get(write.tieId)
    if (tie) world.ties.set(tie.id, { ...tie, ...givenUp(tie, write) })
    world.leftAlone.add(write.item.uid)
  }
}
