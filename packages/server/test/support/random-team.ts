import { type Event, type ItemSource, newEvent, newTask, noOwnLayer, onDate, type Task } from '@loom/core'
import { clothItem, type ClothItem, type Item, type Level, type Role } from '@loom/core'
import fc from 'fast-check'
import type { ViewGrantRow } from '../../src/data/repositories/views.ts'
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
  /** Saved views that open what they show, each as it stood when its giver granted it. */
  views: {
    giver: number
    /** Lists that it does not show. */
    hidden: number[]
    /** It shows only those items: by their titles, or by their categories. */
    only: { by: 'title' | 'category'; items: number[] } | null
    grants: { to: { kind: 'everybody' } | { kind: 'group' | 'person'; id: string }; opens: Level | null }[]
  }[]
}

const LEVELS: Level[] = ['nothing', 'busy', 'title', 'everything', 'change']
const GROUPS = ['g0', 'g1']
const level = fc.constantFrom(...LEVELS)

const grantsOn = (list: number, members: number): fc.Arbitrary<GrantRow[]> => {
  const one = (to_kind: GrantRow['to_kind'], to_id: string) =>
    fc
      .option(fc.tuple(level, fc.nat({ max: 4 })), { nil: null, freq: 2 })
      .map(l =>
        l === null
          ? []
          : [{ collection_id: listId(list), to_kind, to_id, level: l[0], pass_on: l[1] === 0 ? 1 : 0 }],
      )
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
      views: fc.array(
        fc.record({
          giver: fc.nat({ max: members - 1 }),
          hidden: fc.uniqueArray(fc.nat({ max: lists - 1 }), { maxLength: 1 }),
          only: fc.option(
            fc.record({
              by: fc.constantFrom<'title' | 'category'>('title', 'category'),
              items: fc.uniqueArray(fc.nat({ max: items - 1 }), { minLength: 1, maxLength: 4 }),
            }),
            { nil: null },
          ),
          grants: fc
            .uniqueArray(
              fc.oneof(
                fc.constant({ kind: 'everybody' as const }),
                fc.constantFrom(...GROUPS).map(id => ({ kind: 'group' as const, id })),
                fc.nat({ max: members - 1 }).map(n => ({ kind: 'person' as const, id: memberId(n) })),
              ),
              { maxLength: 3, selector: to => JSON.stringify(to) },
            )
            .chain(all =>
              fc.tuple(
                ...all.map(to =>
                  fc
                    .constantFrom<Level | null>(null, 'busy', 'title', 'everything')
                    .map(opens => ({ to, opens })),
                ),
              ),
            ),
        }),
        { maxLength: 2 },
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
      views: team.views,
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

export const viewRows = (team: Team): ViewGrantRow[] =>
  team.views.flatMap(({ giver, hidden, only, grants }, n) =>
    grants.map(({ to, opens }) => ({
      view_id: `view-${n}`,
      to_kind: to.kind,
      to_id: to.kind === 'everybody' ? '' : to.id,
      level: 'everything',
      opens,
      granted_by: memberId(giver),
      giver_role: team.members[giver]?.role ?? null,
      chosen: json({
        hidden: hidden.map(listId),
        filter: !only
          ? []
          : only.by === 'title'
            ? [{ field: 'words', of: only.items.map(i => `T${i}x`), without: false }]
            : [{ field: 'category', is: only.items.map(i => `C${i}x`) }],
      }),
    })),
  )

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

/** What one member may see of one item: by what is said of its list, or by what a view opens. */
export function mayKnow(team: Team, by: number, item: TeamItem): Level {
  const all = [byItsList(team, by, item).level, ...team.views.map(v => byView(team, v, by, item))]
  return all.sort((x, y) => rank(y) - rank(x))[0] ?? 'nothing'
}

function byView(team: Team, view: Team['views'][number], by: number, item: TeamItem): Level {
  const [member, list, giver] = [team.members[by], team.lists[item.list], team.members[view.giver]]
  if (!member || !list || !giver || giver.role === 'reader' || view.giver === by) return 'nothing'
  const said = (kind: string, id: string) =>
    view.grants.find(g => g.to.kind === kind && (g.to.kind === 'everybody' || g.to.id === id))
  const ofGroups = member.groups.flatMap(g => said('group', g) ?? [])
  const most = said('person', member.id)
    ? [said('person', member.id)]
    : ofGroups.length > 0
      ? ofGroups
      : [said('everybody', '')]
  const granted = most.map(g => g?.opens ?? 'nothing').sort((x, y) => rank(y) - rank(x))[0] ?? 'nothing'
  const mine = byItsList(team, by, item)
  const givers = byItsList(team, view.giver, item)
  if (mine.barred || view.hidden.includes(item.list) || !givers.shows) return 'nothing'
  const sees = (l: Level): boolean => rank(givers.level) >= rank(l)
  if (!sees('title')) return 'nothing'
  if (view.only && !view.only.items.includes(item.n)) return 'nothing'
  if (view.only?.by === 'category' && !sees('everything')) return 'nothing'
  const isPrivate = item.marked || (item.kind === 'event' && item.classed)
  const limits: Level[] = [granted, isPrivate ? 'busy' : 'everything', givers.level]
  return limits.sort((x, y) => rank(x) - rank(y))[0] ?? 'nothing'
}

/** `shows`: it is theirs to show to others; `barred`: they are kept out, whatever else is said. */
function byItsList(
  team: Team,
  by: number,
  item: TeamItem,
): { level: Level; shows: boolean; barred: boolean } {
  const member = team.members[by]
  const list = team.lists[item.list]
  const none = { level: 'nothing' as const, shows: false, barred: true }
  if (!member || !list || list.hasLeft) return none
  const most = (l: Level): Level => (member.role === 'reader' && l === 'change' ? 'everything' : l)
  if (list.owner === by) return { level: most('change'), shows: true, barred: false }
  const standsIn = list.owner !== null && member.standsFor.includes(list.owner)
  const grant = (kind: string, id: string): GrantRow | undefined =>
    list.grants.find(g => g.to_kind === kind && g.to_id === id)
  const said = (kind: string, id: string): Level | undefined => grant(kind, id)?.level
  if (!standsIn && said('person', member.id) === 'nothing') return none
  const looksAfter = standsIn || (list.owner === null && member.role === 'coordinator')
  const groups = member.groups.flatMap(g => grant('group', g) ?? [])
  const highest = Math.max(...groups.map(g => rank(g.level)))
  const counts =
    grant('person', member.id) ?? groups.find(g => rank(g.level) === highest) ?? grant('everybody', '')
  const shows = looksAfter || (member.role !== 'reader' && counts?.pass_on === 1)
  let found: Level
  if (looksAfter) found = 'change'
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
  const isGiven = item.kind === 'task' && item.given.includes(by)
  const level = isGiven && rank(found) < rank('everything') ? 'everything' : found
  return { level, shows, barred: false }
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
