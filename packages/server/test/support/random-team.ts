import { type Event, type ItemSource, newEvent, newTask, noOwnLayer, onDate, type Task } from '@loom/core'
import { clothItem, type ClothItem, type Item, type Level, type Role } from '@loom/core'
import fc from 'fast-check'
import type { GrantRow, SharedRow } from '../../src/data/repositories/grants.ts'
import type { TieLine } from '../../src/data/repositories/cloth.ts'
import { json } from '../../src/data/json.ts'

/**
 * Random teams with what they share, and what each may see of it by an oracle that knows nothing of how the product
 * decides: it is written down a second time, straight from the sentences of the design.
 */

export interface TeamMember {
  id: string
  role: Role
  groups: string[]
  /** For whom they stand in. */
  standsFor: number[]
}

export interface TeamItem {
  n: number
  list: number
  kind: 'task' | 'event'
  classed: boolean
  marked: boolean
  /** Members that it is given to. */
  given: number[]
  /** Hour of the week, and minutes. */
  at: number | null
  minutes: number
  shown: 'opaque' | 'transparent'
  state: 'open' | 'done' | 'cancelled'
  repeats: boolean
  allDay: boolean
  /** The same meeting or task as another list has it: one uid, at the same time. */
  twin: number | null
}

export interface Team {
  members: TeamMember[]
  lists: {
    owner: number | null
    hasLeft: boolean
    asBefore: boolean
    grants: GrantRow[]
    kind: 'task' | 'event'
  }[]
  items: TeamItem[]
  ties: { a: number; b: number; role: 'mirror' | 'block' | 'batch' }[]
}

const LEVELS: Level[] = ['nothing', 'busy', 'title', 'everything', 'change']
const GROUPS = ['g0', 'g1']
const level = fc.constantFrom(...LEVELS)

const grantsOn = (list: number, members: number): fc.Arbitrary<GrantRow[]> => {
  const one = (to_kind: GrantRow['to_kind'], to_id: string) =>
    fc
      .option(level, { nil: null, freq: 2 })
      .map(l => (l === null ? [] : [{ collection_id: listId(list), to_kind, to_id, level: l }]))
  return fc
    .tuple(
      one('everybody', ''),
      ...GROUPS.map(g => one('group', g)),
      ...Array.from({ length: members }, (_, m) => one('person', memberId(m))),
    )
    .map(all => all.flat())
}

export const memberId = (n: number): string => `P${n}x`
export const listId = (n: number): string => `K${n}x`
export const itemId = (n: number): string => `I${n}x`

export const randomTeam: fc.Arbitrary<Team> = fc
  .record({
    members: fc.integer({ min: 2, max: 4 }),
    lists: fc.integer({ min: 1, max: 5 }),
    items: fc.integer({ min: 1, max: 9 }),
  })
  .chain(({ members, lists, items }) =>
    fc.record({
      members: fc.array(
        fc.record({
          role: fc.constantFrom<Role>('coordinator', 'member', 'member', 'reader'),
          groups: fc.subarray(GROUPS),
          standsFor: fc.uniqueArray(fc.nat({ max: members - 1 }), { maxLength: 1 }),
        }),
        { minLength: members, maxLength: members },
      ),
      lists: fc.tuple(
        ...Array.from({ length: lists }, (_, n) =>
          fc.record({
            owner: fc.option(fc.nat({ max: members - 1 }), { nil: null, freq: 3 }),
            hasLeft: fc.nat({ max: 7 }).map(n => n === 0),
            asBefore: fc.boolean(),
            grants: grantsOn(n, members),
            kind: fc.constantFrom<'task' | 'event'>('task', 'event'),
          }),
        ),
      ),
      items: fc.array(
        fc.record({
          list: fc.nat({ max: lists - 1 }),
          classed: fc.boolean(),
          marked: fc.nat({ max: 3 }).map(n => n === 0),
          given: fc.uniqueArray(fc.nat({ max: members - 1 }), { maxLength: 2 }),
          at: fc.option(fc.nat({ max: 100 }), { nil: null, freq: 5 }),
          minutes: fc.constantFrom(30, 45, 90, 600),
          shown: fc.constantFrom<'opaque' | 'transparent'>('opaque', 'opaque', 'transparent'),
          state: fc.constantFrom<TeamItem['state']>('open', 'open', 'open', 'done', 'cancelled'),
          repeats: fc.nat({ max: 5 }).map(n => n === 0),
          allDay: fc.nat({ max: 5 }).map(n => n === 0),
          twin: fc.option(fc.nat({ max: items - 1 }), { nil: null, freq: 2 }),
        }),
        { minLength: items, maxLength: items },
      ),
      ties: fc.array(
        fc.record({
          a: fc.nat({ max: items - 1 }),
          b: fc.nat({ max: items - 1 }),
          role: fc.constantFrom<'mirror' | 'block' | 'batch'>('mirror', 'mirror', 'block', 'batch'),
        }),
        { maxLength: 5 },
      ),
    }),
  )
  .map(team => {
    const alone = team.items.map((i, n): TeamItem => ({ ...i, n, kind: team.lists[i.list]?.kind ?? 'task' }))
    const items = alone.map((i): TeamItem => {
      const other = alone[i.twin ?? -1]
      if (!other || other.n >= i.n || other.kind !== i.kind || other.twin !== null || other.repeats)
        return { ...i, twin: null }
      const { at, minutes, allDay } = other
      return { ...i, at, minutes, allDay, repeats: false }
    })
    return {
      members: team.members.map((m, n) => ({ ...m, id: memberId(n) })),
      lists: [...team.lists],
      items: items.map(i => ({
        ...i,
        given: i.kind === 'task' ? i.given : [],
        repeats: i.repeats && i.kind === 'event' && i.at !== null,
      })),
      ties: team.ties.filter(
        t => items[t.a]?.kind === 'task' && items[t.b]?.kind === 'event' && !items[t.b]?.repeats,
      ),
    }
  })

/* ---- what there is, as the product reads it ---- */

export const sharedRows = (team: Team): SharedRow[] =>
  team.lists.map((l, n) => ({
    id: listId(n),
    connection_id: `connection-${n}`,
    owner_id: l.owner === null ? null : memberId(l.owner),
    as_before: l.asBefore ? 1 : 0,
    hidden: l.hasLeft ? 1 : 0,
  }))

export const MONDAY_MS = Date.UTC(2026, 10, 30)
export const hourMs = (at: number): number => MONDAY_MS + at * 3_600_000
const zoned = (at: number) => ({
  kind: 'zoned' as const,
  zone: 'UTC',
  local: new Date(hourMs(at)).toISOString().slice(0, 19),
})
const dayOf = (at: number): string => new Date(hourMs(at)).toISOString().slice(0, 10)

const taskOf = (i: TeamItem): Task => ({
  ...newTask(`uid-${i.twin ?? i.n}`, {
    summary: `T${i.n}x`,
    description: `N${i.n}x`,
    categories: [`C${i.n}x`],
    start: i.at === null ? null : zoned(i.at),
    due: onDate('2026-12-04'),
    priority: 2,
    estimatedDuration: i.minutes,
    status: i.state === 'open' ? 'needs-action' : i.state === 'done' ? 'completed' : 'cancelled',
    assignees: i.given.map(m => `account-${m}`),
  }),
  serviceStatus: `W${i.n}x`,
})

const eventOf = (i: TeamItem): Event => ({
  ...newEvent(
    `uid-${i.twin ?? i.n}`,
    i.allDay
      ? { anchor: onDate(dayOf(i.at ?? 0)), minutes: 1440 }
      : { anchor: zoned(i.at ?? 0), minutes: i.minutes },
    {
      summary: `T${i.n}x`,
      description: `N${i.n}x`,
      location: `L${i.n}x`,
      categories: [`C${i.n}x`],
      transparency: i.shown,
      class: i.classed ? 'private' : 'public',
      eventStatus: 'confirmed',
    } as Partial<Event>,
  ),
  status: i.state === 'cancelled' ? 'cancelled' : 'confirmed',
  recurring: i.repeats,
})

export function sourceOf(team: Team, i: TeamItem): ItemSource<Item> {
  const owner = team.lists[i.list]?.owner ?? null
  const people = i.given.length > 0 ? i.given : owner === null ? [] : [owner]
  return {
    id: itemId(i.n),
    item: i.kind === 'task' ? taskOf(i) : eventOf(i),
    collectionId: listId(i.list),
    pending: false,
    writable: true,
    own: { ...noOwnLayer, private: i.marked },
    people: people.map(memberId),
    accounts: {},
    unsupported: new Set(),
    estimateStep: null,
    kept: { service: `service-${i.list}`, list: String(i.list), connectionId: `connection-${i.list}` },
  }
}

export const tieLines = (team: Team): TieLine[] =>
  team.ties.map((t, n) => ({
    id: `tie-${n}`,
    a: itemId(t.a),
    b: itemId(t.b),
    role: t.role,
    memory: json({}),
  }))

/** The first two dates of a series, a day apart. */
export function datesOf(source: ItemSource<Event>): ClothItem[] {
  const whole = clothItem(null, source, VIEWER)
  if (!whole) return []
  return [0, 1].map(day => {
    const { place } = whole
    const moved =
      place.kind === 'timed'
        ? { ...place, startMs: place.startMs + day * DAY, endMs: place.endMs + day * DAY }
        : place.kind === 'all-day'
          ? { ...place, from: later(place.from, day), to: later(place.to, day) }
          : place
    return { ...whole, key: `${source.id}@${day}`, place: moved }
  })
}
const DAY = 86_400_000
const later = (date: string, days: number): string =>
  new Date(Date.parse(date) + days * DAY).toISOString().slice(0, 10)

export const VIEWER = { zone: 'UTC', defaultMinutes: 30, now: MONDAY_MS }
export const SPAN = { from: '2026-11-30', days: 7 }

/* ---- the oracle ---- */

const rank = (l: Level): number => LEVELS.indexOf(l)

/** What one member may see of one item. */
export function mayKnow(team: Team, by: number, item: TeamItem): Level {
  const member = team.members[by]
  const list = team.lists[item.list]
  if (!member || !list || list.hasLeft) return 'nothing'
  const most = (l: Level): Level => (member.role === 'reader' && l === 'change' ? 'everything' : l)
  if (list.owner === by) return most('change')
  const standsIn = list.owner !== null && member.standsFor.includes(list.owner)
  const said = (kind: string, id: string): Level | undefined =>
    list.grants.find(g => g.to_kind === kind && g.to_id === id)?.level
  if (!standsIn && said('person', member.id) === 'nothing') return 'nothing'
  let found: Level
  if (standsIn || (list.owner === null && member.role === 'coordinator')) found = 'change'
  else if (said('person', member.id)) found = said('person', member.id) ?? 'nothing'
  else {
    const ofGroups = member.groups.flatMap(g => said('group', g) ?? [])
    found =
      ofGroups.length > 0
        ? (ofGroups.sort((x, y) => rank(y) - rank(x))[0] ?? 'nothing')
        : (said('everybody', '') ?? 'nothing')
  }
  found = most(found)
  const isPrivate = item.marked || (item.kind === 'event' && item.classed && !list.asBefore)
  if (isPrivate && rank(found) > rank('busy')) found = 'busy'
  if (item.kind === 'task' && item.given.includes(by) && rank(found) < rank('everything')) return 'everything'
  return found
}

/** Every word that may reach them. */
export function wordsFor(team: Team, by: number): Set<string> {
  const allowed = new Set(team.members.map(m => m.id))
  for (const i of team.items) {
    const known = mayKnow(team, by, i)
    if (rank(known) >= rank('title'))
      for (const w of [itemId(i.n), `T${i.n}x`, listId(i.list)]) allowed.add(w)
    if (rank(known) >= rank('everything'))
      for (const w of [`N${i.n}x`, `L${i.n}x`, `C${i.n}x`, `W${i.n}x`]) allowed.add(w)
  }
  return allowed
}

export const wordsIn = (text: string): string[] => text.match(/[ITNLCWKP]\d+x/g) ?? []

/** Minutes of the week, from Monday, that are taken for somebody by what they may know nothing else of. */
export function busyMinutes(team: Team, by: number): Map<string, Set<number>> {
  const taken = new Map<string, Set<number>>()
  for (const i of team.items) {
    if (mayKnow(team, by, i) !== 'busy' || i.state === 'cancelled' || (i.at === null && i.kind === 'task'))
      continue
    if (i.kind === 'task' ? i.state !== 'open' : i.shown === 'transparent') continue
    const owner = team.lists[i.list]?.owner ?? null
    const whose = i.given.length > 0 ? i.given.map(memberId) : [owner === null ? '' : memberId(owner)]
    const whole = i.kind === 'event' && i.allDay
    const begin = whole ? Math.floor((i.at ?? 0) / 24) * 1440 : (i.at ?? 0) * 60
    for (const day of i.repeats ? [0, 1] : [0])
      for (let m = begin; m < begin + (whole ? 1440 : i.minutes); m += 15)
        for (const person of whose) {
          const at = m + day * 1440
          if (at < 7 * 1440) taken.set(person, (taken.get(person) ?? new Set()).add(at))
        }
  }
  return taken
}
