import { expect } from 'chai'
import { type Item, newEvent, zoned } from '../../src/index.ts'
import { hasRobots, patchFor, reopen, rest, tally } from './living.ts'
import { conflicts } from './people.ts'
import type { Kept } from './service.ts'
import { HOURS, type Step } from './steps.ts'
import { marked } from './titles.ts'
import { type World, ZONE } from './world.ts'

/** What comes back: items that were deleted, restored backups, and what stood there before anybody looked. */

/** What of an item is put back when its counterpart returns. */
const told = (item: Item | undefined) =>
  item && {
    status: item.kind === 'task' ? item.status : marked(item.summary),
    time: item.kind === 'task' ? item.start : item.time,
    title: item.summary,
    notes: item.description.trim(),
  }

/** Something that stood there before. */
export function stood(world: World, s: Extract<Step, { do: 'stood' }>): void {
  const service = world.services.b
  if (service.can.kind !== 'event') return
  const id = world.fresh('stood')
  const anchor = zoned(HOURS[s.at] ?? '', ZONE)
  const item = newEvent(id, { anchor, minutes: 45 }, { summary: `Stood ${id}` })
  if (!s.invited) world.withoutBaseline.add('b')
  service.put('them', id, { ...item, attendees: s.invited ? 2 : 0 })
  if (!seenNow(world, id)) return
  world.stood.add(id)
  if (s.invited) service.put('them', id, { ...item, attendees: 0 })
}
/** Whether a look shows it now: a service may be away, or list it late. */
function seenNow(world: World, id: string): boolean {
  world.observeAll()
  return world.mirrorAt('b', id) !== undefined
}

/** A deletion, what follows from it, and the return of what was deleted. */
export function comeBack(world: World, s: Extract<Step, { do: 'return' }>): void {
  if (world.rules.length > 1 || hasRobots(world)) return
  reopen(world)
  rest(world)
  if (world.intents.length > 0 || conflicts(world).length > 0) return
  const ties = world.activeTies()
  const tie = ties[s.pick % Math.max(1, ties.length)]
  const [gone, left] = s.side % 2 ? [tie?.a, tie?.b] : [tie?.b, tie?.a]
  const [kept, partner] = [world.standing(gone ?? null), world.standing(left ?? null)]
  if (
    !tie ||
    !gone ||
    !left ||
    !kept ||
    !partner ||
    kept.list !== 'main' ||
    partner.list !== 'main' ||
    kept.item.kind === partner.item.kind
  )
    return
  if (
    (partner.item.kind === 'task' && partner.item.recurring) ||
    (kept.item.kind === 'task' && kept.item.recurring)
  )
    return
  // What no listing shows cannot be seen to return.
  if (world.serviceOf(gone).can.hidesDone && kept.item.status === 'completed') return
  const before = told(partner.item)
  const [at, from] = [world.serviceOf(gone), world.serviceOf(left)]
  tally.deletions++
  at.delete('them', kept.id)
  rest(world)
  const again =
    at.byUid(kept.item.uid).length + (world.activeTies().some(t => t.a === left || t.b === left) ? 1 : 0)
  // What is edited meanwhile stays so.
  const then = world.standing(left)
  const edited = s.edits && then ? patchFor(then.item, 'note', { at: s.at, pick: 1, title: s.title }) : null
  if (edited && then) from.patch('them', then.id, edited)
  // Under a uid of which two are gone, nobody can say which is back.
  const ofUid = [...world.mirrors.values()].filter(
    m => world.serviceOf(m.id) === at && m.item.uid === kept.item.uid,
  )
  if (again > 0 || ofUid.length > 1) return
  if (s.ours) return ofOursComesBack(world, left, partner)
  tally.returns++
  at.restore(s.edits ? kept.id : world.fresh('r'), kept.item, kept.origin)
  rest(world)
  const tied = world
    .activeTies()
    .filter(t => [t.a, t.b].some(id => id && world.origins.get(id) === kept.origin))
  if (world.rule.settings.filter.a.length > 0 || world.rule.settings.filter.b.length > 0) return
  // What was made again where the time is not carried has none, and asks for no event.
  const { noHour } = world.rule.settings
  const hasNoTime = [kept, partner].some(
    ({ item }) =>
      item.kind === 'task' && (item.start === null || (item.start.kind === 'date' && noHour === 'none')),
  )
  if (world.rule.settings.fields.time === 'off' || hasNoTime) return
  expect(tied, `${gone} is back, and tied again`).to.have.length(1)
  const now = world.standing(tied[0]?.[gone === tie.a ? 'b' : 'a'] ?? null)?.item
  if (edited || !then) return
  expect(told(now), `what followed from the deletion of ${gone} is put back`).to.deep.equal(before)
}

/**
 * Of a pair at rest one side is edited, and the other follows. Then a backup is restored at the service: the item is
 * there as it was before that, and nobody said so.
 */
export function restoreBackup(world: World, s: Extract<Step, { do: 'backup' }>): void {
  if (world.rules.length > 1 || hasRobots(world)) return
  reopen(world)
  rest(world)
  const { settings } = world.rule
  const FIELDS = { note: 'notes', rank: 'priority', label: 'categories', retitle: 'title' } as const
  if (world.intents.length > 0 || conflicts(world).length > 0 || settings.fields[FIELDS[s.what]] !== 'both')
    return
  const ties = world.activeTies()
  const tie = ties[s.pick % Math.max(1, ties.length)]
  const [own, other] = s.side % 2 ? [tie?.a, tie?.b] : [tie?.b, tie?.a]
  const older = world.standing(own ?? null)
  if (!tie || !own || !other || !older || !world.standing(other)) return
  if (older.list !== 'main' || (older.item.kind === 'task' && older.item.recurring)) return
  // Where revisions are of the content alone, a version is not seen that differs only in its time.
  if (world.mirrors.get(own)?.item.lastModified !== older.item.lastModified) return
  const patch = patchFor(older.item, s.what, { at: 1, pick: 1, title: `1 ${s.title}` })
  const service = world.serviceOf(own)
  if (!patch) return
  service.patch('them', older.id, patch)
  rest(world)
  const newer = world.standing(own)
  const before = [own, other].map(id => facts(world.standing(id)?.item))
  const stamps = [older, newer].map(k => Date.parse(k?.item.lastModified ?? ''))
  const isTied = world.activeTies().some(t => t.id === tie.id)
  if (!newer || !isTied || !((stamps[0] ?? 0) < (stamps[1] ?? 0)) || conflicts(world).length > 0) return
  // A mark that is not carried comes back with the title that it stands before.
  const marks = [older, newer].map(k => marked(k.item.summary))
  const isCarried = settings.fields.completion === 'both' && world.rule.kinds.a === 'task'
  if (!isCarried && marks[0] !== marks[1]) return
  tally.backups++
  service.goBack(older)
  rest(world)
  expect(
    [own, other].map(id => facts(world.standing(id)?.item)),
    `${own} went back to an earlier version, which gives way`,
  ).to.deep.equal(before)
}

/** What went because its counterpart did is put back by somebody: it is by itself, and asks for nothing. */
function ofOursComesBack(world: World, mirror: string, kept: Kept): void {
  const service = world.serviceOf(mirror)
  if (service.byUid(kept.item.uid).length > 0) return
  const writes = world.journal.length
  service.restore(kept.id, kept.item, kept.origin)
  rest(world)
  expect(world.journal.slice(writes), `${mirror} is back, which went for its counterpart`).to.deep.equal([])
}

const facts = (item: Item | undefined) =>
  item && { ...told(item), priority: item.priority, categories: [...item.categories].sort() }
