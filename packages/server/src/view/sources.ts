import { type Event, holdsPlan, type Item, type ItemSource, noOwnLayer } from '@loom/core'
import { LRUCache } from 'lru-cache'
import { chunks } from '../data/chunks.ts'
import type { Sql } from '../data/database.ts'
import { withOwnLayer } from '../data/repositories/mirrors.ts'
import { type Unsupported, unsupportedOf } from '../sync/push/unsupported-fields.ts'
import { ownLayerOf } from '../data/repositories/own-layer.ts'
import {
  describedCollections,
  homesOfWorkspace,
  serviceOf,
  type Home,
} from '../data/repositories/collections.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { peopleWithMembers, type PersonWithMember } from '../data/repositories/people.ts'
import { type Content, contentsOf, type Head, headsOf } from '../data/repositories/cloth.ts'
import { parsed, json } from '../data/json.ts'

/**
 * Items by mirror id, as the Cloth draws them. Items that were not touched since the last reading are not read and
 * parsed again: from one request to the next, little of a week changes. An unchanged item is the same object, so
 * results computed from it can be kept with it. Nobody changes these objects.
 */

/** An item as it was read, with what was derived from it and the circumstances it depends on. */
interface Known {
  version: string
  row: Content
  made: { under: Circumstances; source: ItemSource<Item> } | null
}
/** A few kilobytes each. */
const known = new LRUCache<string, Known>({ max: 20_000 })

/** What the items of a workspace are seen by: whose accounts there are, and which collections can be written to. */
export class Circumstances {
  private readonly homes: Map<string, Home & Unsupported>
  private readonly members: Map<string, string>
  /** Members by their mail address. */
  private readonly invitable: Map<string, string>
  private readonly accounts = new Map<string, Record<string, string>>()

  constructor(
    readonly text: string,
    homes: readonly Home[],
    people: readonly PersonWithMember[],
    team: readonly { id: string; email: string }[],
    unsupported: ReadonlyMap<string, Unsupported>,
  ) {
    this.homes = new Map(homes.map(h => [h.id, { ...h, ...(unsupported.get(h.id) ?? NOTHING) }]))
    this.members = new Map(people.map(p => [`${p.connection_id} ${p.remote_id}`, p.member_id]))
    this.invitable = new Map(team.map(m => [m.email.toLowerCase(), m.id]))
    for (const p of people)
      this.accounts.set(p.connection_id, {
        [p.member_id]: p.remote_id,
        ...this.accounts.get(p.connection_id),
      })
  }

  /** Null where its collection takes no part. */
  sourceOf(row: Content): ItemSource<Item> | null {
    const home = this.homes.get(row.collection_id)
    if (!home) return null
    const own = row.own === null ? null : parsed(row.own)
    const remote = parsed(row.item)
    const known = withOwnLayer(remote, own && { estimate_minutes: own.own_estimate })
    const layer = own ? ownLayerOf(own) : noOwnLayer
    const { unsupported, estimateStep } = home
    const isPlannedByUs = known.kind === 'task' && !holdsPlan({ writable: home.writable === 1, unsupported })
    const item = isPlannedByUs ? { ...known, start: known.start ?? layer.plan } : known
    return Object.freeze({
      id: row.id,
      item: Object.freeze(item),
      collectionId: row.collection_id,
      pending: false,
      writable: home.writable === 1,
      own: layer,
      people: this.whose(home, item),
      accounts: this.accounts.get(home.connection_id) ?? {},
      leftOut: false,
      unsupported,
      estimateStep,
      kept: { service: serviceOf(home), list: home.remote_id, connectionId: home.connection_id },
      ...(home.kind === 'own' && item.kind === 'event' && this.invitingOf(item)),
      ...(row.series_id && { dateOf: { seriesId: row.series_id, occurrence: row.occurrence ?? '' } }),
      holdsEstimate: remote.kind === 'task' && remote.estimatedDuration !== null,
    })
  }

  /** Of an event in our own lists: its guests are told from here, or somebody else invites to it. */
  private invitingOf({ invited }: Event): Pick<ItemSource<Event>, 'tellsGuests' | 'invitedBy'> {
    const by = invited?.by ?? null
    return by === null || this.invitable.has(by) ? { tellsGuests: true } : { invitedBy: by }
  }

  unsupported = (collectionId: string): string[] => [...(this.homes.get(collectionId)?.unsupported ?? [])]

  /**
   * Whose an item is: those a task is given to, else whose account it comes from. A meeting is besides of those of the
   * team who are invited and have not said that they will not come.
   */
  private whose({ connection_id: connection, owner_id: owner }: Home, item: Item): string[] {
    if (item.kind === 'event' && item.invited) {
      const { by, guests } = item.invited
      const coming = guests.flatMap(g => (g.answer === 'declined' ? [] : [g.email]))
      const invited = [by ?? '', ...coming].flatMap(email => this.invitable.get(email) ?? [])
      return [...new Set([...(owner ? [owner] : []), ...invited])]
    }
    const assigned = item.kind === 'task' ? item.assignees : []
    const members = assigned.flatMap(id => this.members.get(`${connection} ${id}`) ?? [])
    if (members.length > 0) return [...new Set(members)]
    return assigned.length === 0 && owner ? [owner] : []
  }
}

/** What writes to a list or calendar cannot say, by it and the version of its settings. */
const NOTHING: Unsupported = { unsupported: new Set(), estimateStep: null }
const knownUnsupported = new LRUCache<string, Unsupported>({ max: 5000 })
const versionOf = ({ id, version }: Pick<Home, 'id' | 'version'>): string => `${id} ${version}`
async function unsupportedIn(sql: Sql, homes: readonly Home[]): Promise<Map<string, Unsupported>> {
  const unread = homes.filter(h => !knownUnsupported.has(versionOf(h))).map(h => h.id)
  for (const ids of chunks(unread))
    for (const row of await describedCollections(sql, { ids }))
      knownUnsupported.set(versionOf(row), unsupportedOf(row))
  return new Map(homes.map(h => [h.id, knownUnsupported.get(versionOf(h)) ?? NOTHING]))
}

const circumstances = new LRUCache<string, Circumstances>({ max: 100 })

export async function circumstancesOf(sql: Sql, workspaceId: string): Promise<Circumstances> {
  const [homes, people, members] = await Promise.all([
    homesOfWorkspace(sql, { workspaceId }),
    peopleWithMembers(sql, { workspaceId }),
    teamOfWorkspace(sql, { workspaceId }),
  ])
  const team = members.map(({ id, email }) => ({ id, email }))
  const text = json([homes, people, team])
  const before = circumstances.get(workspaceId)
  if (before?.text === text) return before
  const now = new Circumstances(text, homes, people, team, await unsupportedIn(sql, homes))
  circumstances.set(workspaceId, now)
  return now
}

/** Keeps what was read of an item, if it is another version than the known one. */
export function keep(row: Content): Known {
  const before = known.get(row.id)
  if (before?.version === row.version) return before
  const fresh: Known = { version: row.version, row, made: null }
  known.set(row.id, fresh)
  return fresh
}

/**
 * @param ids of mirrors; those that are not there, or take no part, are left out
 * @param read what was read of them already: the versions of some, what they are seen by, those that are the same
 */
export async function loadSources(
  sql: Sql,
  workspaceId: string,
  ids: Iterable<string>,
  read: {
    heads?: readonly Head[]
    under?: Circumstances
    same?: ReadonlyMap<string, ItemSource<Item>>
  } = {},
): Promise<Map<string, ItemSource<Item>>> {
  const circumstances = read.under ?? (await circumstancesOf(sql, workspaceId))
  const sources = new Map<string, ItemSource<Item>>()
  const wanted: string[] = []
  for (const id of ids) {
    const same = read.same?.get(id)
    if (same) sources.set(id, same)
    else wanted.push(id)
  }
  const heads = new Map((read.heads ?? []).map(h => [h.id, h.version]))
  const versions = new Map<string, string>()
  const unread: string[] = []
  for (const id of wanted) {
    const version = heads.get(id)
    if (version === undefined) unread.push(id)
    else versions.set(id, version)
  }
  for (const part of chunks(unread))
    for (const h of await headsOf(sql, { part, workspaceId })) versions.set(h.id, h.version)
  const held = new Map<string, Known>()
  const stale: string[] = []
  for (const [id, version] of versions) {
    const before = known.get(id)
    if (before?.version === version) held.set(id, before)
    else stale.push(id)
  }
  for (const part of chunks(stale))
    for (const row of await contentsOf(sql, { part })) held.set(row.id, keep(row))
  for (const [id, one] of held) {
    if (one.made?.under !== circumstances) {
      const source = circumstances.sourceOf(one.row)
      one.made = source && { under: circumstances, source }
    }
    if (one.made) sources.set(id, one.made.source)
  }
  return sources
}
