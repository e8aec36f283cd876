import {
  fateOf,
  type Looked,
  mayBeStale,
  mayHaveMovedHere,
  type Mirror,
  observe,
  returningAs,
  type Sighting,
} from '../../src/index.ts'
import { type Kept, LISTS, type List } from './service.ts'
import { type Name, NAMES, type World } from './world.ts'

/** How a server reads the services: all their lists first, then what those left out. */

const collectionOf = (name: Name, list: List): string => (list === 'main' ? name : `${name}/${list}`)

export const sightingOf = (name: Name, kept: Kept): Sighting => ({
  remoteId: kept.id,
  collectionId: collectionOf(name, kept.list),
  revision: kept.revision,
  item: kept.item,
})

function looked(world: World, name: Name, collection: string): Looked {
  const { skew } = world.services[name].can
  const believed = world.bug === 'believes the clock of the service' ? 0 : skew
  return {
    before: world.looked.get(collection) ?? 0,
    now: world.now,
    skew: believed,
    hasBaseline:
      !world.withoutBaseline.has(collection) || world.bug === 'takes what stood there before for new',
  }
}

/** Folds what was seen of one item into its mirror, and says which that is. */
export function see(world: World, name: Name, kept: Kept, known: Mirror | undefined, echo = false): string {
  const id = known?.id ?? world.mirrorId(name, kept.id)
  const sighting = sightingOf(name, kept)
  const result = observe(known ?? null, sighting, looked(world, name, sighting.collectionId), id)
  const before = world.origins.get(id)
  if (before !== undefined && before !== kept.origin && world.services[name].knownBeside.has(kept.id))
    world.lost.push(`${id} went over to a copy that was known beside it`)
  world.origins.set(id, kept.origin)
  if (result.kind === 'same') return id
  // With the bug, only when the property was changed is kept.
  if (world.bug === 'takes a mark for an edit of the title')
    for (const span of Object.values(result.mirror.seen)) delete span.before
  // What is known of restored backups would hide that an old listing is believed.
  if (world.bug === 'lets a restored backup win' || world.bug === 'believes a listing that is old')
    for (const span of Object.values(result.mirror.seen)) delete span.restored
  world.mirrors.set(id, echo && known ? { ...known, revision: result.mirror.revision } : result.mirror)
  return id
}

/** What is said of when something was changed must be so, as far as looking can tell. */
function spansAreTrue(world: World, name: Name, kept: Kept, known: Mirror, { seen }: Mirror): void {
  const service = world.services[name]
  // Where we wrote ourselves in between, looking has seen more than listings.
  const lately = service.deeds.filter(d => d.origin === kept.origin && d.at > world.now - 200_000)
  if (service.can.listing === 'late' || lately.some(d => d.by === 'us')) return
  for (const prop of ['summary', 'description'] as const) {
    const span = seen[prop]
    if (!span || known.item[prop] === kept.item[prop]) continue
    const at = service.changedAt(kept.id, item => item[prop])
    if (at < span.without || at > span.with)
      world.lost.push(`${prop} was changed at ${at}, not from ${span.without} to ${span.with}`)
  }
}

interface Reading {
  /** Ids of what was seen. */
  seen: Set<string>
  /** Lists that could be read. */
  lists: Set<string>
}

export function readListings(world: World): Map<Name, Reading> {
  const out = new Map<Name, Reading>()
  for (const name of NAMES) {
    const service = world.services[name]
    const reading: Reading = { seen: new Set(), lists: new Set() }
    out.set(name, reading)
    for (const list of LISTS) {
      const listing =
        service.list(list) ?? (world.bug === 'deletes what it may no longer see' ? new Map() : null)
      if (!listing) continue
      reading.lists.add(collectionOf(name, list))
      for (const kept of listing.values()) seeListed(world, name, kept, reading)
    }
  }
  return out
}

/** What was deleted, and is put back under another id. */
function returned(world: World, name: Name, { item }: Kept): Mirror | undefined {
  const ofUid = [...world.mirrors.values()].filter(
    m => world.nameOf(m.id) === name && m.item.uid === item.uid,
  )
  const [gone, living] = [true, false].map(g => ofUid.filter(m => (m.presence === 'gone') === g))
  return returningAs(gone ?? [], living ?? []) ?? undefined
}

function seeListed(world: World, name: Name, listed: Kept, { seen }: Reading): void {
  const service = world.services[name]
  const known =
    world.mirrorAt(name, listed.id) ??
    returned(world, name, listed) ??
    (world.bug === 'takes the uid alone for identity'
      ? [...world.mirrors.values()].find(m => world.nameOf(m.id) === name && m.item.uid === listed.item.uid)
      : undefined)
  let kept: Kept | undefined = listed
  if (mayBeStale(known ?? null, sightingOf(name, listed)) && world.bug !== 'believes a listing that is old')
    kept = service.items.get(listed.id)
  if (!kept) return
  seen.add(kept.id)
  const echo =
    world.bug === 'takes changes soon after its own write for an echo' &&
    world.now - (world.wroteAt[name] ?? 0) < 3000
  const sameUid = [...world.mirrors.values()].filter(
    m => world.nameOf(m.id) === name && m.item.uid === listed.item.uid,
  )
  const newHere = known?.presence !== 'present'
  const id = see(world, name, kept, known, echo)
  const now = world.mirrors.get(id)
  if (known?.presence === 'present' && now && !echo) spansAreTrue(world, name, kept, known, now)
  const mirror = world.mirrors.get(id)
  if (
    mirror &&
    newHere &&
    mayHaveMovedHere(sightingOf(name, kept), sameUid) &&
    world.bug !== 'plans with a newcomer before it knows where that comes from'
  )
    world.mirrors.set(id, { ...mirror, presence: 'arriving' })
}

/** Absence is not deletion: each is asked for by id, and then looked for by its uid. */
export function judgeAbsences(world: World, readings: Map<Name, Reading>): void {
  for (const [name, { seen, lists }] of readings) {
    for (const id of [...world.mirrors.keys()]) {
      const m = world.mirrors.get(id)
      if (!m || !['present', 'arriving'].includes(m.presence) || world.nameOf(id) !== name) continue
      if (lists.has(m.collectionId) && !seen.has(m.remoteId))
        judge(world, name, m, lists.size === LISTS.length)
    }
    // Only when all lists were read it is known of everything new whether it came from another.
    if (lists.size === LISTS.length) admit(world, name)
    for (const list of lists) {
      world.looked.set(list, world.now)
      world.withoutBaseline.delete(list)
    }
    noteCopies(world, name)
  }
}

function noteCopies(world: World, name: Name): void {
  const service = world.services[name]
  for (const [copy, of] of service.copyOf) {
    const ids = [copy, of].flatMap(origin => service.byOrigin(origin)?.id ?? [])
    const mirrors = new Set(ids.map(id => world.mirrorAt(name, id)).filter(m => m?.presence === 'present'))
    if (mirrors.size === 2) for (const id of ids) service.knownBeside.add(id)
  }
}

function admit(world: World, name: Name): void {
  const here = (presence: Mirror['presence']): Mirror[] =>
    [...world.mirrors.values()].filter(m => world.nameOf(m.id) === name && m.presence === presence)
  // A listing that lags may still show what has left: what bears the same uid, and the new one itself.
  if (world.services[name].can.listing !== 'true')
    for (const arrival of here('arriving')) {
      for (const m of here('present')) if (m.item.uid === arrival.item.uid) judge(world, name, m, true)
      if (!world.services[name].items.has(arrival.remoteId)) world.mirrors.delete(arrival.id)
    }
  for (const m of here('arriving')) world.mirrors.set(m.id, { ...m, presence: 'present' })
}

/** `all`: all lists were read. Only then it can be said of anything that it is gone. */
function judge(world: World, name: Name, m: Mirror, all: boolean): void {
  const service = world.services[name]
  const trusts = world.bug === 'trusts a listing that leaves something out'
  const visible = (kept: Kept | undefined): kept is Kept =>
    kept !== undefined && (service.closed === 'no' || (service.closed === 'vanished' && kept.list === 'side'))
  const read = trusts ? undefined : service.items.get(m.remoteId)
  // What was never planned with is forgotten where it has left again.
  if (m.presence === 'arriving') {
    if (!visible(read)) world.mirrors.delete(m.id)
    return
  }
  const held = (k: Kept): Mirror['presence'] | null =>
    world.bug === 'takes a copy that it knew for what was moved'
      ? null
      : (world.mirrorAt(name, k.id)?.presence ?? null)
  const blind = trusts || world.bug === 'takes what was moved for deleted'
  const fate = fateOf(
    visible(read) ? sightingOf(name, read) : null,
    (blind ? [] : service.byUid(m.item.uid))
      .filter(visible)
      .map(k => ({ at: sightingOf(name, k), held: held(k) })),
  )
  if (fate.kind === 'gone' && all) world.mirrors.set(m.id, { ...m, presence: 'gone' })
  const kept = fate.kind === 'lives' ? service.items.get(fate.at.remoteId) : undefined
  if (!kept) return
  const twin = world.mirrorAt(name, kept.id)
  if (twin && twin.id !== m.id) takeOver(world, m.id, twin.id)
  see(world, name, kept, m)
}

/** Two mirrors are of one item: what hangs on the later one hangs on the earlier from now on. */
function takeOver(world: World, id: string, twin: string): void {
  world.mirrors.delete(twin)
  const goesOn = (one: string | null): string | null => (one === twin ? id : one)
  for (const [key, t] of world.ties) world.ties.set(key, { ...t, a: goesOn(t.a), b: goesOn(t.b) })
  for (const i of world.intents) {
    if (i.by === 'person') i.mirror = goesOn(i.mirror) ?? i.mirror
    else if ('mirrorId' in i.write) i.write.mirrorId = goesOn(i.write.mirrorId) ?? i.write.mirrorId
  }
}
