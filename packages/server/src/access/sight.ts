import {
  type Chosen,
  type CollectionSight,
  type Grant,
  type Grantee,
  higher,
  isBarred,
  isChosen,
  type Item,
  type ItemSource,
  type Level,
  levelOfItem,
  lower,
  lowered,
  mayComplete,
  openedTo,
  type Privacy,
  privacyOf,
  type Onlooker,
  reaches,
  type Role,
  type Shared,
  sightOf,
  throughLens,
  unseen,
  type ViewGrant,
} from '@loom/core'
import { LRUCache } from 'lru-cache'
import { createHash } from 'node:crypto'
import type { Sql } from '../data/database.ts'
import {
  type GrantRow,
  grantsOf,
  deputiesOf,
  groupsOfMembers,
  type SharedRow,
  sharedCollections,
} from '../data/repositories/grants.ts'
import { parsed } from '../data/json.ts'
import { type ViewGrantRow, viewGrants } from '../data/repositories/views.ts'

/** Who sees what of a workspace, decided here and nowhere else (TEAM: one place decides). */

export interface Asker {
  id: string
  role: Role
}

declare const seen: unique symbol
/** Of a value: that it holds only what somebody may see. Made by `Sight` alone. */
export type Seen<T> = T & { readonly [seen]: true }

/** Everything that is granted in a workspace. */
export class Sharing {
  private readonly sights = new Map<string, Sight>()

  constructor(
    private readonly shared: ReadonlyMap<string, Shared>,
    private readonly people: {
      /** By member. */
      groups: ReadonlyMap<string, readonly string[]>
      /** By deputy: for whom they stand in today. */
      standsFor: ReadonlyMap<string, readonly string[]>
    },
    /** What saved views open, by view. */
    private readonly views: ReadonlyMap<string, readonly ViewGrant[]> = new Map(),
    /** A moment of this day, in UTC: epoch ms. */
    private readonly today = Date.now(),
  ) {}

  of = (id: string): Shared | undefined => this.shared.get(id)
  groupsOf = (member: string): readonly string[] => this.people.groups.get(member) ?? []

  onlooker = ({ id, role }: Asker): Onlooker => ({
    id,
    role,
    groups: this.groupsOf(id),
    standsFor: this.people.standsFor.get(id) ?? [],
  })

  /** What one member sees. */
  sightOf({ id, role }: Asker): Sight {
    const key = `${id} ${role}`
    const known = this.sights.get(key)
    if (known) return known
    const fresh = this.bare({ id, role }).with(this.lensesOf(this.onlooker({ id, role })))
    this.sights.set(key, fresh)
    return fresh
  }

  /** What a member of these groups sees who is given nothing of their own: whoever is there one day. */
  sightOfAny(groups: readonly string[]): Sight {
    const who: Onlooker = { id: '', role: 'member', groups }
    const all = new Map([...this.shared].map(([k, shared]) => [k, sightOf(who, shared)]))
    return new Sight(who, all).with(this.lensesOf(who))
  }

  /** What views open of a list that is theirs to show: to whom, and how far. */
  openings = (list: string): { view: string; to: Grantee; level: Level }[] =>
    [...this.views].flatMap(([view, grants]) =>
      grants.flatMap(({ to, level, giver, chosen }) => {
        if (level === 'nothing' || !giver || giver.role === 'reader' || chosen.hidden.includes(list))
          return []
        const sight = this.bare(giver)
        return sight.tends(list) || sight.passesOn(list) ? [{ view, to, level }] : []
      }),
    )

  private readonly bareSights = new Map<string, Sight>()
  /** Without what views open. */
  private bare(member: Asker): Sight {
    const key = `${member.id} ${member.role}`
    const who = this.onlooker(member)
    const all = () => new Map([...this.shared].map(([k, shared]) => [k, sightOf(who, shared)]))
    const sight = this.bareSights.get(key) ?? new Sight(who, all())
    this.bareSights.set(key, sight)
    return sight
  }

  private lensesOf(who: Onlooker): Lens[] {
    return [...this.views.values()].flatMap((grants): Lens[] => {
      const found = openedTo(who, grants)
      if (!found || found.giver.id === who.id) return []
      const giver = this.bare(found.giver)
      const lists = [...giver.tended(), ...giver.passable()].filter(id => {
        const shared = this.shared.get(id)
        return shared && !isBarred(who, shared) && !found.chosen.hidden.includes(id)
      })
      return [{ level: found.level, giver, chosen: found.chosen, lists: new Set(lists), today: this.today }]
    })
  }

  /** As it would be after these changes, each list chosen for by then. */
  with(changes: readonly { list: string; to: Grantee; level: Level | null; passOn?: boolean }[]): Sharing {
    const shared = new Map(this.shared)
    for (const { list, to, level, passOn = false } of changes) {
      const before = shared.get(list)
      if (!before) continue
      const others = before.grants.filter(g => JSON.stringify(g.to) !== JSON.stringify(to))
      const grants = level === null ? others : [...others, { to, level, passOn }]
      shared.set(list, { ...before, grants, asBefore: false })
    }
    return new Sharing(shared, this.people, this.views, this.today)
  }
}

export function sharingFrom(
  rows: readonly SharedRow[],
  grants: readonly GrantRow[],
  members: readonly { member_id: string; group_id: string }[],
  deputies: readonly { member_id: string; deputy_id: string }[] = [],
  { views = [], today }: { views?: readonly ViewGrantRow[]; today?: number } = {},
): Sharing {
  const on = new Map<string, Grant[]>()
  for (const g of grants) on.set(g.collection_id, [...(on.get(g.collection_id) ?? []), grantOf(g)])
  const groups = new Map<string, string[]>()
  for (const { member_id: id, group_id: group } of members) groups.set(id, [...(groups.get(id) ?? []), group])
  const shared = rows.map((r): [string, Shared] => [
    r.id,
    {
      owner: r.owner_id,
      grants: on.get(r.id) ?? [],
      asBefore: r.as_before === 1,
      isHidden: r.hidden === 1,
    },
  ])
  const standsFor = new Map<string, string[]>()
  for (const { member_id: of, deputy_id: by } of deputies)
    standsFor.set(by, [...(standsFor.get(by) ?? []), of])
  const granted = new Map<string, ViewGrant[]>()
  for (const v of views) granted.set(v.view_id, [...(granted.get(v.view_id) ?? []), viewGrantOf(v)])
  return new Sharing(new Map(shared), { groups, standsFor }, granted, today)
}

function viewGrantOf(row: ViewGrantRow): ViewGrant {
  const { to_kind: kind, to_id: id, opens, granted_by: by, giver_role: role, chosen } = row
  return {
    to: kind === 'everybody' ? { kind } : { kind, id },
    level: opens ?? 'nothing',
    giver: by !== null && role !== null ? { id: by, role } : null,
    chosen: chosen === null ? { filter: [], hidden: [] } : parsed(chosen),
  }
}

/** As it is stored, for the core. */
export function grantOf(row: Omit<GrantRow, 'collection_id'>): Grant {
  const { to_kind: kind, to_id: id, level, pass_on: passOn, granted_by: by } = row
  const to = kind === 'everybody' ? { kind } : { kind, id }
  return { to, level, ...(passOn === 1 && { passOn: true }), ...(by && { by }) }
}

/** What a view opens to somebody. */
interface Lens {
  level: Level
  /** As whoever granted it sees it, without what others open to them. */
  giver: Sight
  chosen: Chosen
  lists: ReadonlySet<string>
  today: number
}

function levelThrough(
  { level, giver, chosen, lists, today }: Lens,
  source: ItemSource<Item>,
  privacy: Privacy,
): Level {
  if (!lists.has(source.collectionId)) return 'nothing'
  const seen = giver.seen(source)
  return seen && isChosen(chosen, seen, today)
    ? throughLens(level, giver.levelOf(source, privacy), privacy)
    : 'nothing'
}

/** What one person sees of a workspace. */
export class Sight {
  /** Those who see the same share it: what is drawn for one is drawn for all of them. */
  readonly text: string
  /** Of everything in sight at this moment; an answer of another epoch is not joined with one of this. */
  readonly epoch: string
  /** They see and may change everything. */
  readonly isWhole: boolean

  constructor(
    private readonly who: Onlooker,
    private readonly collections: ReadonlyMap<string, CollectionSight>,
    /** Of what is not among them. */
    private readonly others: CollectionSight = unseen,
    /** Of each item the lower of the two counts, and nothing is changed: *see as*. */
    private readonly as: Sight | null = null,
    private readonly lenses: readonly Lens[] = [],
  ) {
    const all = [...collections]
    // Whom something is given to matters only where that opens what else is closed.
    const minds = all.some(([, s]) => !reaches(s.open, s.given) || !reaches(s.closed, s.given))
    const levels = all.map(([id, s]) => [id, s.open, s.classed, s.closed])
    const opened = lenses.map(l => [l.level, l.chosen, [...l.lists], l.giver.text, l.today])
    this.text = JSON.stringify([levels, minds ? who.id : '', as?.text ?? '', opened])
    this.isWhole =
      !as && all.every(([, s]) => [s.open, s.classed, s.closed].every(level => level === 'change'))
    this.epoch = createHash('sha256').update(this.text).digest('base64url').slice(0, 16)
  }

  private on = (collectionId: string): CollectionSight => this.collections.get(collectionId) ?? this.others

  /** Of a list or calendar as a whole, and of what is not private in it. */
  level = (collectionId: string): Level =>
    this.asOther(this.on(collectionId).open, s => s.level(collectionId))

  /** At most so much is seen of something in it, by a view as well: of what is open, and of what is classed. */
  most = (collectionId: string): { open: Level; classed: Level } => {
    const { open, classed } = this.on(collectionId)
    const opened = this.openedOf(collectionId)
    return { open: higher(open, opened), classed: higher(classed, lower(opened, 'busy')) }
  }

  private asOther = (level: Level, other: (as: Sight) => Level): Level =>
    this.as ? lower(lower(level, 'everything'), other(this.as)) : level

  /** What both see, to be looked at. */
  seeingAs = (other: Sight): Sight => new Sight(this.who, this.collections, this.others, other, this.lenses)

  /** And what views open to them; there is nothing to open where all is seen. */
  with = (lenses: readonly Lens[]): Sight =>
    this.isWhole || lenses.length === 0
      ? this
      : new Sight(this.who, this.collections, this.others, this.as, lenses)

  /** At most so much of something in it is opened to them by views. */
  openedOf = (collectionId: string): Level =>
    this.lenses.reduce<Level>(
      (most, l) => (l.lists.has(collectionId) ? higher(most, l.level) : most),
      'nothing',
    )

  /** Whether of something in it so much may be seen, by a view at least. */
  glimpses = (collectionId: string, wanted: Level): boolean =>
    this.sees(collectionId, wanted) ||
    reaches(
      this.asOther(this.openedOf(collectionId), as =>
        higher(as.level(collectionId), as.openedOf(collectionId)),
      ),
      wanted,
    )

  /** Whether it is theirs, or the team's and theirs to look after. */
  tends = (collectionId: string): boolean => this.on(collectionId).owns !== false
  owns = (collectionId: string): boolean => this.on(collectionId).owns === 'own'
  /** Whether they may show it to others, as much as they see of it themselves. */
  passesOn = (collectionId: string): boolean => !this.as && this.on(collectionId).passesOn

  sees = (collectionId: string, wanted: Level): boolean => reaches(this.level(collectionId), wanted)

  /** Those that are seen at least so. */
  withAtLeast = (wanted: Level): string[] => [...this.collections.keys()].filter(id => this.sees(id, wanted))

  /** Those of which something may be seen so. */
  glimpsed = (wanted: Level): string[] => [...this.collections.keys()].filter(id => this.glimpses(id, wanted))

  /** All that is theirs to share. */
  tended = (): string[] => [...this.collections].flatMap(([id, s]) => (s.owns === false ? [] : [id]))

  /** What they may show to others without its being theirs. */
  passable = (): string[] =>
    [...this.collections].flatMap(([id, s]) => (s.passesOn && s.owns === false ? [id] : []))

  /** Where everything is seen, of what is open, classed and marked private. */
  wholeLists = (): Record<Privacy, string[]> => {
    const where = (level: (s: CollectionSight) => Level): string[] =>
      [...this.collections].flatMap(([id, s]) => (reaches(level(s), 'everything') ? [id] : []))
    return { open: where(s => s.open), classed: where(s => s.classed), marked: where(s => s.closed) }
  }

  private isGiven = ({ item, people }: ItemSource<Item>): boolean =>
    item.kind === 'task' && item.assignees.length > 0 && (people ?? []).includes(this.who.id)

  /** Of an item of which only so much is known; whom it is given to is not minded. */
  levelAt = (collectionId: string, privacy: Privacy): Level =>
    levelOfItem(this.on(collectionId), { privacy, isGiven: false })

  /** @param privacy as it is, or was at another time */
  levelOf(source: ItemSource<Item>, privacy = privacyOf(source)): Level {
    const own = levelOfItem(this.on(source.collectionId), { privacy, isGiven: this.isGiven(source) })
    const level = this.lenses.reduce((most, lens) => higher(most, levelThrough(lens, source, privacy)), own)
    return this.asOther(level, as => as.levelOf(source, privacy))
  }

  /** The item as far as it is to be seen, always the same object for the same level; null below its title. */
  seen<I extends Item>(source: ItemSource<I>): Seen<ItemSource<I>> | null {
    const level = this.levelOf(source)
    if (level === 'change') return source as Seen<ItemSource<I>>
    const completes = !this.as && mayComplete(level, this.isGiven(source), this.who.role)
    const ways = before.get(source) ?? new Map<string, ItemSource<Item> | null>()
    before.set(source, ways)
    const way = `${level} ${completes}`
    if (!ways.has(way)) ways.set(way, lowered(source, level, completes))
    return (ways.get(way) ?? null) as Seen<ItemSource<I>> | null
  }
}
/** For what is no person's sight: trials that compare what is read with what is read anew. */
export const unlowered = new Sight({ id: '', role: 'coordinator', groups: [] }, new Map(), {
  open: 'change',
  classed: 'change',
  closed: 'change',
  given: 'change',
  owns: 'own',
  passesOn: true,
})
const before = new WeakMap<ItemSource<Item>, Map<string, ItemSource<Item> | null>>()

/** Per workspace; the one that was asked for longest ago goes first. */
const known = new LRUCache<string, { text: string; sharing: Sharing }>({ max: 200 })

/** What is granted in a workspace now; the same object as long as nothing changes. */
export async function sharingOf(sql: Sql, workspaceId: string): Promise<Sharing> {
  const [rows, grants, groups, all, granted] = await Promise.all([
    sharedCollections(sql, { workspaceId }),
    grantsOf(sql, { workspaceId }),
    groupsOfMembers(sql, { workspaceId }),
    deputiesOf(sql, { workspaceId }),
    viewGrants(sql, { workspaceId }),
  ])
  // By the machine's day in UTC: somewhere it is that day already, or still.
  const today = new Date().toISOString().slice(0, 10)
  const deputies = all.filter(d => d.from_day <= today && today <= d.to_day)
  const opening = new Set(granted.flatMap(v => (v.opens === null ? [] : [v.view_id])))
  const views = granted.filter(v => opening.has(v.view_id))
  const text = JSON.stringify([rows, grants, groups, deputies, views.length > 0 ? [views, today] : ''])
  const earlier = known.get(workspaceId)
  if (earlier?.text === text) return earlier.sharing
  const sharing = sharingFrom(rows, grants, groups, deputies, { views, today: Date.parse(today) })
  known.set(workspaceId, { text, sharing })
  return sharing
}

/** What a link shows: its lists at their levels, private things at most as busy, and never more than its maker sees now. */
export function sightOfLink(maker: Sight, lists: readonly { id: string; level: Level }[]): Sight {
  const shown = lists.map(({ id, level }): [string, CollectionSight] => {
    const closed = lower(level, 'busy')
    return [id, { open: level, classed: closed, closed, given: 'nothing', owns: false, passesOn: false }]
  })
  const guest: Onlooker = { id: '', role: 'reader', groups: [] }
  return new Sight(guest, new Map(shown)).seeingAs(maker)
}

export const sightIn = async (sql: Sql, member: Asker & { workspaceId: string }): Promise<Sight> =>
  (await sharingOf(sql, member.workspaceId)).sightOf(member)
