import {
  alreadyShows,
  asInPatch,
  confirmWrite,
  type Field,
  type FieldChange,
  type Item,
  type ItemPatch,
  lensesOf,
  otherSide,
  type PlannedWrite,
  type Rule,
  sameValue,
  type Tie,
  verdictOf,
} from '../../src/index.ts'
import { see } from './observing.ts'
import type { Kept, Service } from './service.ts'
import {
  type Fault,
  type Intent,
  type Name,
  type OwnIntent,
  type RuleIntent,
  targetOf,
  type World,
} from './world.ts'

/** How a server sends what it decided on, and what it makes of the answers, or of none. */

type Meddle = (service: Service, id: string) => void

/** Sends every open intent once; people's own edits go first. */
export function apply(world: World, fault: () => Fault, meddle: Meddle): void {
  let dead = false
  const cut = new Map<Service, number>()
  const waiting = new Set<string>()
  const order = [...world.intents].sort((x, y) => Number(x.by === 'rule') - Number(y.by === 'rule'))
  for (const intent of order) {
    if (dead) break
    const target = targetOf(intent)
    // One write at a time for one item: what came first goes first.
    const first = world.intents.find(i => target !== null && targetOf(i) === target)
    if (first && first !== intent && (first.tried || intent.by === 'rule')) continue
    if (target !== null && waiting.has(target)) continue
    const service = serviceOf(world, intent)
    if (service.closed === 'revoked' || (intent.by === 'rule' && intent.nextTry > world.now)) continue
    let kind = fault()
    if (kind !== 'none') world.faulty = true
    if (kind === 'crash-before') break
    if (kind === 'batch-cut' && !cut.has(service)) cut.set(service, 0)
    const nth = cut.get(service)
    if (nth !== undefined) {
      kind = nth % 2 ? 'never-arrived' : 'answer-lost'
      cut.set(service, nth + 1)
    }
    if (kind === 'crash') dead = true
    let stays = send(world, intent, kind, meddle)
    if (stays && kind === 'twice') stays = send(world, intent, 'none', meddle)
    if (!stays) world.intents = world.intents.filter(i => i !== intent)
    else if (target !== null) waiting.add(target)
  }
}

const nameFor = (world: World, intent: Intent): Name =>
  intent.by === 'person'
    ? world.nameOf(intent.mirror)
    : ((world.rules.find(r => r.id === intent.rule) as Rule).home[intent.write.side] as Name)
const serviceOf = (world: World, intent: Intent): Service => world.services[nameFor(world, intent)]

/** Whether the intent stays open. */
function send(world: World, intent: Intent, kind: Fault, meddle: Meddle): boolean {
  if (intent.by === 'person') return sendOwn(world, intent, kind, meddle)
  const rule = world.rules.find(r => r.id === intent.rule) as Rule
  const { write } = intent
  const service = serviceOf(world, intent)
  if (kind === 'never-arrived') {
    if (world.bug === 'gives up after one failed try') return false
    if (world.bug === 'calls done what never arrived') {
      const id =
        write.op === 'create' ? (intent.id ?? '') : (world.mirrors.get(write.mirrorId)?.remoteId ?? '')
      confirm(world, intent, rule, service.items.get(id) ?? null, true)
      return false
    }
    intent.tried = true
    return true
  }
  if (kind === 'edited-before' && 'mirrorId' in write) {
    const id = world.mirrors.get(write.mirrorId)?.remoteId ?? ''
    if (service.items.has(id)) service.patch('them', id, { description: `Seen at ${world.now}` })
  }
  const again = intent.tried
  intent.tried = true
  if (write.op === 'create') return create(world, intent, write, rule, kind, again, meddle)
  const id = world.mirrors.get(write.mirrorId)?.remoteId ?? ''
  const present = service.closed === 'vanished' ? undefined : service.items.get(id)
  if (!present) {
    // Not where we look for it: gone, unless it moved; then it is planned anew when it was found.
    const moved = service.byUid(world.mirrors.get(write.mirrorId)?.item.uid ?? '').length > 0
    if (write.op === 'delete' && service.closed === 'no' && !moved) confirm(world, intent, rule, null, true)
    else if (again) writeDown(world, intent, rule, write.mirrorId, false)
    return false
  }
  const blind = world.bug === 'writes without a precondition'
  const stale = present.revision !== write.revision
  if (stale && !blind) {
    // Refused by the precondition: ours already, or somebody else's edit.
    if (again && write.op === 'patch' && alreadyShows(rule, write, present.item))
      confirm(world, intent, rule, present, false)
    else if (again) writeDown(world, intent, rule, write.mirrorId, false)
    return false
  }
  const act = (): void => {
    const now = service.items.get(id)
    const refused = service.can.preconditions && !blind && now?.revision !== write.revision
    if (!now || refused) return
    if (service.can.preconditions) noteLoss(world, intent, now.item)
    world.wroteAt[nameFor(world, intent)] = world.now
    if (write.op === 'delete') service.delete('us', id)
    else service.patch('us', id, write.patch as ItemPatch)
  }
  if (kind === 'late-effect') {
    world.late.push(act)
    return true
  }
  // Where nothing checks it, an edit between our look and our write is lost to the same field, and to no other.
  if (kind === 'edited-between' && !service.can.preconditions) meddle(service, id)
  act()
  if (kind === 'answer-lost' || kind === 'crash' || kind === 'twice') return true
  service.look()
  const ours = service.items.get(id)
  if (kind === 'edited-after' && ours) meddle(service, id)
  const read = service.items.get(id) ?? null
  confirm(world, intent, rule, read, read?.revision === ours?.revision && !again)
  return false
}

function create(
  world: World,
  intent: RuleIntent,
  write: Extract<PlannedWrite, { op: 'create' }>,
  rule: Rule,
  kind: Fault,
  again: boolean,
  meddle: Meddle,
): boolean {
  const name = nameFor(world, intent)
  const service = world.services[name]
  const anew = again && world.bug === 'makes a new id for each try'
  if (again && service.can.choosesIds && !anew) {
    const { behindMs } = service.can
    const verdict = verdictOf(service.search(write.item.uid), world.now - intent.triedAt, behindMs)
    if (verdict.kind === 'made') {
      confirm(world, intent, rule, verdict.item, false)
      return false
    }
    const guesses = world.bug === 'makes again what is not listed yet' && service.closed === 'no'
    if (verdict.kind === 'unsure' && !guesses) {
      intent.nextTry = world.now + (verdict.againMs ?? 15_000)
      intent.asks = verdict.againMs === null
      return true
    }
  }
  if (service.closed === 'vanished') return true
  intent.triedAt = world.now
  /** Under the id that it was to have, or where somebody has moved it since. */
  const present = (): string | null => {
    if (anew || service.can.choosesIds) return null
    const [marked] = again ? service.byUid(write.item.uid) : []
    return marked?.id ?? (service.items.has(intent.id ?? '') ? intent.id : null)
  }
  const known = present()
  const asked = world.now
  const act = (): string => {
    const there = present()
    const id = there ?? (anew || service.can.choosesIds ? world.fresh('n') : (intent.id ?? ''))
    if (!there) {
      const { origin } = service.put('us', id, write.item)
      service.askedAt.set(origin, asked)
      world.made.push({ name, origin })
    }
    return id
  }
  if (kind === 'late-effect') {
    world.late.push(() => void act())
    return true
  }
  const id = act()
  if (kind === 'answer-lost' || kind === 'crash' || kind === 'twice') return true
  service.look()
  const ours = service.items.get(id)
  if (kind === 'edited-after' && ours) meddle(service, id)
  const read = service.items.get(id) ?? null
  confirm(world, intent, rule, read, read?.revision === ours?.revision && known === null)
  return false
}

/** An edit from our own screens goes out upon what its author saw; if that is so no longer, they are told. */
function sendOwn(world: World, intent: OwnIntent, kind: Fault, meddle: Meddle): boolean {
  const service = serviceOf(world, intent)
  const m = world.mirrors.get(intent.mirror)
  const refuse = (): boolean => {
    world.own.refused++
    if (intent.tried && m) writeDownOwn(world, intent, false)
    return false
  }
  if (!m || m.presence === 'gone') return refuse()
  const turned = (item: Item): boolean =>
    intent.occurrence !== null && item.kind === 'task' && item.occurrence !== intent.occurrence
  const asSeen = (item: Item): boolean =>
    !turned(item) && sameValue(asInPatch(item, intent.before), intent.before)
  const shows = (item: Item): boolean =>
    turned(item) || sameValue(asInPatch(item, intent.patch), intent.patch)
  const careless = world.bug === 'overwrites what was edited since a person looked'
  if (!asSeen(m.item) && !(intent.tried && shows(m.item)) && !careless) return refuse()
  const again = intent.tried
  intent.tried = true
  if (kind === 'never-arrived') return true
  const id = m.remoteId
  const present = service.closed === 'vanished' ? undefined : service.items.get(id)
  if (!present) return refuse()
  // An earlier try may have completed the round: another would complete the next one as well.
  if (again && turned(present.item)) {
    confirmOwn(world, intent, present)
    return false
  }
  if (present.revision !== m.revision && !careless) {
    see(world, world.nameOf(m.id), present, m)
    if (again && shows(present.item)) {
      confirmOwn(world, intent, present)
      return false
    }
    return asSeen(present.item) ? true : refuse()
  }
  const { revision } = present
  const act = (): void => {
    const now = service.items.get(id)
    if (!now || (service.can.preconditions && now.revision !== revision && !careless)) return
    const stood = asInPatch(now.item, intent.before)
    if (service.can.preconditions && !sameValue(stood, intent.before) && !shows(now.item))
      world.lost.push(`an edit of ours: ${JSON.stringify(stood)}, not ${JSON.stringify(intent.before)}`)
    world.wroteAt[world.nameOf(m.id)] = world.now
    service.patch('us', id, intent.patch)
    const deed = service.deeds.at(-1)
    if (deed) deed.asked = true
  }
  if (kind === 'late-effect') {
    world.late.push(act)
    return true
  }
  if (kind === 'edited-between' && !service.can.preconditions) meddle(service, id)
  act()
  if (kind === 'answer-lost' || kind === 'crash' || kind === 'twice') return true
  service.look()
  if (kind === 'edited-after') meddle(service, id)
  const read = service.items.get(id)
  if (read) confirmOwn(world, intent, read)
  return false
}

function confirmOwn(world: World, intent: OwnIntent, read: Kept): void {
  world.own.done++
  writeDownOwn(world, intent, true)
  const from = world.mirrors.get(intent.mirror)
  see(world, world.nameOf(intent.mirror), read, from)
  rebase(world, intent.mirror, from?.item)
}

const PROPS = {
  summary: 'title',
  description: 'notes',
  status: 'completion',
  time: 'time',
  start: 'time',
  priority: 'priority',
  categories: 'categories',
} as const

function writeDownOwn(world: World, { mirror, patch, before }: OwnIntent, sure: boolean): void {
  const was = before as Record<string, unknown>
  const fields: FieldChange[] = Object.entries(patch).flatMap(([prop, after]) =>
    prop in PROPS ? [{ field: PROPS[prop as keyof typeof PROPS], before: was[prop], after }] : [],
  )
  world.journal.push({ rule: '', tie: '', side: 'a', op: 'patch', fields, mirror, at: world.now, sure })
}

/** What somebody saw before a write of ours arrived is what that write left: it is not held against their edit. */
function rebase(world: World, mirror: string, from: Item | undefined): void {
  const to = world.mirrors.get(mirror)?.item
  if (!from || !to) return
  for (const i of world.intents) {
    if (i.by !== 'person' || i.mirror !== mirror || i.tried) continue
    const was = asInPatch(from, i.before) as Record<string, unknown>
    const now = asInPatch(to, i.before) as Record<string, unknown>
    const before = i.before as Record<string, unknown>
    for (const k of Object.keys(before)) if (sameValue(before[k], was[k])) before[k] = now[k]
  }
}

/** What a write replaces must be what it says it replaces, and it must say all of it. */
function noteLoss(world: World, { rule, version, write }: RuleIntent, item: Item): void {
  const tie = world.ties.get(write.tieId)
  const then = world.versions.get(rule)?.[version]
  if (!then) return
  for (const { field, before } of write.fields) {
    const lens = lensesOf(then).find(l => l.field === field)
    if (!lens || field === 'subtasks') continue
    const stood = lens.read(write.side, item, tie?.base[field]?.[write.side])
    if (!lens.same(write.side, stood, before))
      world.lost.push(`${field}: ${JSON.stringify(stood)}, not ${JSON.stringify(before)}`)
  }
}

/** Done, or, where no answer came and somebody has edited since, perhaps done. */
function writeDown(world: World, { write }: RuleIntent, rule: Rule, mirror: string, sure: boolean): void {
  const { tieId: tie, side, op, fields } = write
  world.journal.push({ rule: rule.id, tie, side, op, fields, mirror, at: world.now, sure })
}

/** With the bugs, what one of two writes brings is taken for what both bring. */
function asConfirmed(world: World, tie: Tie, write: PlannedWrite): PlannedWrite {
  const atOnce = world.bug === 'raises the base of both sides at the first of two confirmations'
  if (!atOnce && world.bug !== 'raises the base of each side by itself') return write
  const other = otherSide(write.side)
  const sibling = world.intents.find(
    i => i.by === 'rule' && i.write.tieId === write.tieId && i.write.side === other,
  )
  const after = (field: Field): unknown =>
    sibling?.by === 'rule' ? sibling.write.fields.find(f => f.field === field)?.after : undefined
  const expect = { ...write.expect }
  const fields = write.fields.map(({ as, ...f }) => {
    const planned = f.field === 'subtasks' ? undefined : expect[f.field]
    if (as && planned && f.field !== 'subtasks') {
      const stands = atOnce ? after(f.field) : tie.base[f.field]?.[other]
      expect[f.field] = { ...planned, [other]: stands ?? planned[other] }
    }
    return f
  })
  return { ...write, fields, expect }
}

function confirm(world: World, intent: RuleIntent, rule: Rule, read: Kept | null, oursToo: boolean): void {
  const { write } = intent
  const name = nameFor(world, intent)
  const known =
    'mirrorId' in write ? world.mirrors.get(write.mirrorId) : read ? world.mirrorAt(name, read.id) : undefined
  const from = known?.item
  const mirror = read
    ? see(world, name, read, known)
    : 'mirrorId' in write
      ? write.mirrorId
      : world.mirrorId(name, intent.id ?? '')
  if (!read && known) world.mirrors.set(mirror, { ...known, presence: 'gone' })
  writeDown(world, intent, rule, mirror, true)
  rebase(world, mirror, from)
  const tie = world.ties.get(write.tieId)
  if (!tie) return
  const then = world.versions.get(rule.id)?.[tie.version] ?? rule
  const ours =
    world.bug === 'takes what it sent for what was kept'
      ? false
      : oursToo || world.bug === 'takes whatever it reads after a write for its own'
  const returned = { item: read?.item ?? null, before: from ?? null, mirrorId: mirror, revisionIsOurs: ours }
  world.ties.set(tie.id, { ...tie, ...confirmWrite(then, tie, asConfirmed(world, tie, write), returned) })
}
