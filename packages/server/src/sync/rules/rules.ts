import {
  firstUnread,
  healthOfSides,
  sideRows,
  sideRow,
  type SideRow,
  type NamedList,
  collectionsAmong,
  collectionsOfConnection,
} from '../../data/repositories/sides.ts'
import {
  accountSubject,
  type Capabilities,
  capabilitiesOf,
  type ServiceDescription,
  shippedServices,
} from '@loom/connectors'
import {
  type Identity,
  Meaning,
  plainTerms,
  type Rule,
  type RuleSettings,
  settingsOf,
  type Side,
  SIDES,
  type SideTerms,
} from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { scopeOf } from '../../context/context.ts'

import { peopleOfConnections, type PersonRow } from '../../data/repositories/people.ts'
import { settingsOfVersion, type RuleRow, ANEW_EVERY_MS } from '../../data/repositories/rules.ts'
import { parsed, type Json } from '../../data/json.ts'

/** Rules as they are kept, and as the planner reads them. */

/** Whether its next pass looks at everything, changed or not. */
export const isPlannedAnew = (row: Pick<RuleRow, 'planned_seq' | 'anew_at'>, now: number): boolean =>
  row.planned_seq < 0 || Math.abs(now - row.anew_at) > ANEW_EVERY_MS

/** Why a rule cannot act now, or null: a side that cannot be read is frozen, not empty. */
export async function frozenBecause(sql: Sql, a: string, b: string): Promise<string | null> {
  const rows = await healthOfSides(sql, { a, b })
  for (const r of rows) {
    if (r.trouble) return `${r.name}: ${r.trouble}`
    if (r.state === 'signed-out')
      return `${r.name}: its account is signed out. Sign in again under Connections.`
    if (!r.takes_part) return `${r.name} does not take part. Choose it under Connections.`
    if (r.synced_at === null) return unreadWords(r.name)
  }
  return rows.length < (a === b ? 1 : 2) ? 'One of its two sides is not connected.' : null
}

const unreadWords = (name: string): string => `${name} is still being read for the first time.`

/**
 * Why a rule cannot act yet, or null: a side of which one list is not read makes what is in that list look as if it
 * were nowhere, and would have it made again.
 */
export async function unreadBecause(sql: Sql, lists: readonly string[]): Promise<string | null> {
  const unread = await firstUnread(sql, { ids: lists })
  return unread && unreadWords(unread.name)
}

async function sidesOf(sql: Sql, { a, b }: Pick<RuleDraft, Side>): Promise<Record<Side, SideRow | null>> {
  const rows = await sideRows(sql, { a, b })
  const of = (id: string): SideRow | null => rows.find(r => r.id === id) ?? null
  return { a: of(a), b: of(b) }
}

export interface RuleDraft {
  id: string
  workspaceId: string
  a: string
  b: string
  settings: RuleSettings
  newSince: number | null
}

export async function ruleFor(sql: Sql, draft: RuleDraft): Promise<Rule> {
  const { a, b } = await sidesOf(sql, draft)
  const [people, listsA, listsB] = await Promise.all([
    peopleOf(sql, [a, b]),
    collectionsOfSide(sql, draft, 'a', a),
    collectionsOfSide(sql, draft, 'b', b),
  ])
  return {
    id: draft.id,
    kinds: { a: a?.itemKind ?? 'task', b: b?.itemKind ?? 'event' },
    home: { a: draft.a, b: draft.b },
    collections: { a: listsA.map(l => l.id), b: listsB.map(l => l.id) },
    settings: draft.settings,
    terms: { a: termsOf(a, people, listsA), b: termsOf(b, people, listsB) },
    zone: (a ?? b)?.workspace_zone ?? 'UTC',
    newSince: draft.newSince,
  }
}

/** The ids of the lists of a side that there are now. */
export async function idsOfSide(sql: Sql, row: RuleRow, side: Side): Promise<string[]> {
  const draft = {
    workspaceId: row.workspace_id,
    a: row.a_collection,
    b: row.b_collection,
    settings: settingsOf(parsed(row.settings)),
  }
  return (await collectionsOfSide(sql, draft, side, await sideRow(sql, { id: draft[side] }))).map(c => c.id)
}

/** The lists of a side that there are now: those named, or every one of its service that takes part. */
async function collectionsOfSide(
  sql: Sql,
  draft: Pick<RuleDraft, 'workspaceId' | 'a' | 'b' | 'settings'>,
  side: Side,
  home: SideRow | null,
): Promise<NamedList[]> {
  const { also, all } = draft.settings
  const own = { id: draft[side], remote_id: home?.remote_id ?? '' }
  if (!home || (!all[side] && also[side].length === 0)) return [own]
  const of = { workspaceId: draft.workspaceId, itemKind: home.itemKind }
  const rows = all[side]
    ? await collectionsOfConnection(sql, { ...of, connection: home.connection_id })
    : await collectionsAmong(sql, { ...of, also: also[side] })
  return [own, ...rows.filter(r => r.id !== own.id)]
}

async function peopleOf(sql: Sql, sides: readonly (SideRow | null)[]): Promise<PersonRow[]> {
  const connections = sides.flatMap(s => s?.connection_id ?? [])
  return connections.length === 0 ? [] : peopleOfConnections(sql, { connections })
}

/** A calendar that is shared stands at another address for each person; the end of it is mostly the same. */
const endOf = (remoteId: string): string => remoteId.split('/').filter(Boolean).at(-1) ?? ''

/** Whoever connects the same service tells its items apart by the same. */
function identityOf(side: SideRow, lists: readonly NamedList[]): Identity {
  const isOwn = side.kind === 'own' || !URL.canParse(side.address)
  return {
    service: isOwn ? `own ${side.workspace_id}` : accountSubject(new URL(side.address).origin),
    by: side.kind === 'http-json' ? 'remoteId' : 'uid',
    lists: Object.fromEntries(lists.map(l => [l.id, endOf(l.remote_id)])),
  }
}

function termsOf(
  side: SideRow | null,
  everybody: readonly PersonRow[],
  lists: readonly NamedList[],
): SideTerms {
  if (!side) return plainTerms
  const people = everybody.filter(p => p.connection_id === side.connection_id)
  const can = capabilitiesIn(side)
  const swapped = side.meaning !== null && Meaning.parse(parsed(side.meaning)).swapDates
  const { start, due } =
    side.itemKind === 'task' && can ? can.datePrecision : { start: 'second' as const, due: 'second' as const }
  const notes = scopeOf(side).notes && (can?.canHold.notes ?? true)
  return {
    identity: identityOf(side, lists),
    zone: side.itemKind === 'task' ? side.zone : null,
    summaryMaxLength: can?.summaryMaxLength ?? null,
    precision: swapped ? due : start,
    duePrecision: swapped ? start : due,
    canHold:
      side.itemKind === 'event' || !can
        ? { ...plainTerms.canHold, notes }
        : {
            ...can.canHold,
            notes,
            ...(swapped && { start: can.canHold.due, due: can.canHold.start }),
          },
    writable: side.writable === 1,
    me: people.find(p => p.is_me === 1)?.remote_id ?? null,
    people: Object.fromEntries(people.flatMap(p => (p.member_id ? [[p.remote_id, p.member_id]] : []))),
  }
}

/** What a list or calendar can hold, the same for all rules. */
export async function termsOfCollection(sql: Sql, id: string): Promise<SideTerms> {
  const side = await sideRow(sql, { id })
  return termsOf(side, await peopleOf(sql, [side]), side ? [side] : [])
}

/** What the service of a connection can do; null for our own lists and calendars, which can do everything. */
export const capabilitiesIn = (side: Pick<SideRow, 'kind' | 'description'>): Capabilities | null =>
  side.kind === 'own' ? null : capabilitiesOf({ kind: side.kind as 'caldav', ...descriptionIn(side) })

/** Connections of before there were descriptions are to the first that shipped. */
export function descriptionIn(side: Pick<SideRow, 'kind' | 'description'>): {
  description?: ServiceDescription
} {
  if (side.kind !== 'http-json') return {}
  const description = side.description
    ? parsed(side.description)
    : shippedServices().find(s => s.id === 'bench-list')?.description
  return description ? { description } : {}
}

/** The rule as it is now, or with the settings of an earlier version of it. */
export const ruleOf = (sql: Sql, row: RuleRow, settings: Json<unknown> = row.settings): Promise<Rule> =>
  ruleFor(sql, {
    id: row.id,
    workspaceId: row.workspace_id,
    a: row.a_collection,
    b: row.b_collection,
    settings: settingsOf(parsed(settings)),
    newSince: row.new_since,
  })

/** Every list and calendar that a rule is about now. */
export async function collectionsOfRule(sql: Sql, row: RuleRow): Promise<string[]> {
  const settings = settingsOf(parsed(row.settings))
  return listsOfDraft(sql, {
    a: row.a_collection,
    b: row.b_collection,
    workspaceId: row.workspace_id,
    settings,
  })
}

/** Every list and calendar of both sides of a rule as it is drafted. */
export async function listsOfDraft(
  sql: Sql,
  draft: Pick<RuleDraft, 'workspaceId' | 'a' | 'b' | 'settings'>,
): Promise<string[]> {
  const { a, b } = await listsOfSides(sql, draft)
  return [...a, ...b]
}

export async function listsOfSides(
  sql: Sql,
  draft: Pick<RuleDraft, 'workspaceId' | 'a' | 'b' | 'settings'>,
): Promise<Record<Side, string[]>> {
  const sides = await sidesOf(sql, draft)
  const [a = [], b = []] = await Promise.all(
    SIDES.map(side => collectionsOfSide(sql, draft, side, sides[side])),
  )
  return { a: a.map(l => l.id), b: b.map(l => l.id) }
}

/** The rule as it was in a version; as it is now where that is not kept. */
export async function ruleAt(sql: Sql, row: RuleRow, version: number): Promise<Rule> {
  if (version === row.version) return ruleOf(sql, row)
  const then = await settingsOfVersion(sql, { id: row.id, version })
  return ruleOf(sql, row, then?.settings)
}
