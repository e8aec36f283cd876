import {
  carriedBy,
  type Channel,
  higher,
  type Level,
  lower,
  type Looker,
  reaches,
  type RuleSettings,
  settingsOf,
  unagreed,
  widenedBy,
  type Widening,
} from '@loom/core'
import { type Asker, type Sharing, sharingOf } from '../../access/sight.ts'
import type { Sql } from '../../data/database.ts'
import { parsed } from '../../data/json.ts'
import { namesOfLists } from '../../data/repositories/collection-views.ts'
import { consentsOf } from '../../data/repositories/consents.ts'
import { groupsOf } from '../../data/repositories/grants.ts'
import { linksOfWorkspace, listsOfLinks } from '../../data/repositories/links.ts'
import { teamOfWorkspace } from '../../data/repositories/members.ts'
import { rulesWithPlainNames } from '../../data/repositories/rules.ts'
import { listsOfSides, type RuleDraft } from './rules.ts'

/** Who sees what by rules that they do not see without them; and whose agreement that needs. */

type Who = Asker & { workspaceId: string }

/** A rule as it is saved or drafted. */
export type Drafted = Pick<RuleDraft, 'id' | 'a' | 'b'> & { settings: RuleSettings }

export interface Opened {
  name: string
  from: Level
  to: Level
  /** The side that is carried over. */
  side: 'a' | 'b'
}

/** What somebody has to agree to: that a rule shows so much of what is in their list to those. */
export interface Need {
  rule: string
  list: string
  /** Where it is seen then. */
  target: string
  level: Level
  who: string[]
}

/** It as it may be told to whoever causes it. */
export interface Ask {
  /** Of the list; null for whom it is not there. */
  place: string | null
  /** Whose it is; null for the team's. */
  owner: string | null
  level: Level
}

async function channelsOf(sql: Sql, workspaceId: string, draft: Drafted): Promise<Channel[]> {
  const lists = await listsOfSides(sql, { ...draft, workspaceId })
  const isClassed = draft.settings.show.class !== 'public'
  return [
    {
      rule: draft.id,
      way: 'a-to-b',
      source: lists.a,
      target: lists.b,
      carried: carriedBy(draft.settings, 'a-to-b'),
      isClassed,
    },
    {
      rule: draft.id,
      way: 'b-to-a',
      source: lists.b,
      target: lists.a,
      carried: carriedBy(draft.settings, 'b-to-a'),
      isClassed: false,
    },
  ]
}

/** Of all rules, as they are; or with this one among them as it is drafted. One that is paused has carried already. */
async function channelsIn(sql: Sql, workspaceId: string, draft: Drafted | null): Promise<Channel[]> {
  const rows = (await rulesWithPlainNames(sql, { workspaceId })).filter(r => r.own !== 1)
  const saved = rows.map(r => ({
    id: r.id,
    a: r.a_collection,
    b: r.b_collection,
    settings: settingsOf(parsed(r.settings)),
  }))
  const all = draft ? [...saved.filter(r => r.id !== draft.id), draft] : saved
  const found: Channel[] = []
  for (const rule of all) found.push(...(await channelsOf(sql, workspaceId, rule)))
  return found
}

type NamedLooker = Looker & { name: string; isPerson: boolean }

/** What is granted: to members, and by secret addresses. */
interface Granted {
  sharing: Sharing
  shown: readonly { link_id: string; collection_id: string; level: Level }[]
}

/** Everybody in the team, whoever joins it or a group one day, and whoever has a secret address. */
async function lookersIn(sql: Sql, workspaceId: string, { sharing, shown }: Granted): Promise<NamedLooker[]> {
  const [team, groups, links] = [
    await teamOfWorkspace(sql, { workspaceId }),
    await groupsOf(sql, { workspaceId }),
    await linksOfWorkspace(sql, { workspaceId }),
  ]
  const now = Date.now()
  const addresses = links.filter(l => l.expires_at === null || l.expires_at > now)
  return [
    ...team.map(m => ({ id: m.id, name: m.name, isPerson: true, at: sharing.sightOf(m).most })),
    { id: 'any', name: 'whoever joins the team', isPerson: false, at: sharing.sightOfAny([]).most },
    ...groups.map(({ id, name }) => ({
      id: `any of ${id}`,
      name: `whoever joins ${name}`,
      isPerson: false,
      at: sharing.sightOfAny([id]).most,
    })),
    ...addresses.map(({ id }) => ({
      id,
      name: 'whoever has a secret address',
      isPerson: false,
      at: (list: string) => {
        const open = shown.find(s => s.link_id === id && s.collection_id === list)?.level ?? 'nothing'
        return { open, classed: lower(open, 'busy') }
      },
    })),
  ]
}

/** All that rules show to more people than see it without them. */
export interface Audience {
  widenings: Widening[]
  /** By looker. */
  names: ReadonlyMap<string, { name: string; isPerson: boolean }>
  channels: Channel[]
}

/**
 * As it is, or with a rule or grants that are not saved so yet.
 * @param known what rules carry, where that is read already
 */
export async function audienceIn(
  sql: Sql,
  workspaceId: string,
  {
    draft = null,
    granted = null,
    known = null,
  }: { draft?: Drafted | null; granted?: Granted | null; known?: Channel[] | null } = {},
): Promise<Audience> {
  const channels = known ?? (await channelsIn(sql, workspaceId, draft))
  if (channels.length === 0) return { widenings: [], names: new Map(), channels }
  const now = granted ?? {
    sharing: await sharingOf(sql, workspaceId),
    shown: await listsOfLinks(sql, { workspaceId }),
  }
  const lookers = await lookersIn(sql, workspaceId, now)
  return {
    widenings: widenedBy(channels, lookers),
    names: new Map(lookers.map(l => [l.id, l])),
    channels,
  }
}

/**
 * What owners have to agree to before this audience becomes that one; not of what whoever acts owns or looks after.
 * @param anew of this rule all that its owners ever limited counts, however long it has been seen
 */
export async function needsOf(
  sql: Sql,
  who: Who,
  { before, after, anew = null }: { before: Audience; after: Audience; anew?: string | null },
): Promise<Need[]> {
  if (after.widenings.length === 0) return []
  const consents = await consentsOf(sql, { workspaceId: who.workspaceId })
  const agreed = (list: string, target: string): Level | null =>
    consents.find(c => c.collection_id === list && c.target_id === target)?.level ?? null
  const { tends } = (await sharingOf(sql, who.workspaceId)).sightOf(who)
  const needs = new Map<string, Need>()
  for (const w of unagreed(before.widenings, after.widenings, agreed, anew)) {
    if (tends(w.list)) continue
    const key = `${w.rule} ${w.list}`
    const { level = 'nothing', who: others = [] } = needs.get(key) ?? {}
    needs.set(key, {
      rule: w.rule,
      list: w.list,
      target: w.target,
      level: higher(level, w.to),
      who: [...new Set([...others, after.names.get(w.person)?.name ?? ''])],
    })
  }
  return [...needs.values()]
}

/** Whose each is, and what is named of it: nothing that whoever causes it does not see. */
export async function asksFor(sql: Sql, who: Who, needs: readonly Need[]): Promise<Ask[]> {
  if (needs.length === 0) return []
  const sharing = await sharingOf(sql, who.workspaceId)
  const sight = sharing.sightOf(who)
  const names = new Map(
    (await namesOfLists(sql, { ids: needs.map(n => n.list) })).map(n => [n.id, n.name] as const),
  )
  const people = new Map(
    (await teamOfWorkspace(sql, { workspaceId: who.workspaceId })).map(m => [m.id, m.name]),
  )
  return needs.map(({ list, level }) => ({
    place: sight.sees(list, 'title') ? (names.get(list) ?? null) : null,
    owner: people.get(sharing.of(list)?.owner ?? '') ?? null,
    level,
  }))
}

/** Who will see what by a rule as it is drafted, and who has to agree to that. */
export async function audienceOf(
  sql: Sql,
  who: Who,
  draft: Omit<Drafted, 'id'> & { id: string | null },
): Promise<{ opened: Opened[]; asks: Ask[] }> {
  const { workspaceId } = who
  const rule = { ...draft, id: draft.id ?? 'new' }
  const before = await audienceIn(sql, workspaceId)
  const after = await audienceIn(sql, workspaceId, { draft: rule })
  const needs = await needsOf(sql, who, { before, after, anew: rule.id })
  return { opened: openedBy(after, rule.id), asks: await asksFor(sql, who, needs) }
}

/** By person and side; of those who are only to come, where nobody is there who sees as much. */
function openedBy({ widenings, names }: Audience, rule: string): Opened[] {
  const opened = new Map<string, Opened & { isPerson: boolean }>()
  for (const w of widenings.filter(x => x.rule === rule)) {
    const side = w.way === 'a-to-b' ? 'a' : 'b'
    const known = opened.get(`${side} ${w.person}`)
    const { name = '', isPerson = false } = names.get(w.person) ?? {}
    opened.set(`${side} ${w.person}`, {
      name,
      isPerson,
      side,
      from: known ? lower(known.from, w.from) : w.from,
      to: known ? higher(known.to, w.to) : w.to,
    })
  }
  const all = [...opened.values()]
  const isTold = (o: Opened & { isPerson: boolean }): boolean =>
    o.isPerson || !all.some(x => x.isPerson && x.side === o.side && reaches(x.to, o.to))
  return all.filter(isTold).map(({ name, from, to, side }) => ({ name, from, to, side }))
}
