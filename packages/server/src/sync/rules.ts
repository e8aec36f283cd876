import { capabilitiesOf, type ServiceDescription, shippedServices } from '@loom/connectors'
import { type PlanInput, type Rule, RuleSettings, type Tie } from '@loom/core'
import type { Event, Mirror, Task } from '@loom/core'
import { idFor } from '../access/secrets.ts'
import type { Sql } from '../data/database.ts'
import { type MirrorRow, mirrorOf, MIRRORS } from '../data/mirrors.ts'
import { scopeOf } from './context.ts'

/** Loads what the planner needs of one rule, and asks it. Pass and preview both come through here. */

export interface RuleRow {
  id: string
  workspace_id: string
  a_collection: string
  b_collection: string
  settings: string
  state: 'on' | 'paused'
  version: number
  enabled_at: number
  planned_seq: number
  last_pass_at: number | null
  notices: string
}

interface TieRow {
  id: string
  a_mirror: string | null
  b_mirror: string | null
  base: string
  released: Tie['released']
}

export const tieOf = (row: TieRow): Tie => ({
  id: row.id,
  a: row.a_mirror,
  b: row.b_mirror,
  base: JSON.parse(row.base) as Tie['base'],
  released: row.released,
})

/** Why a rule cannot act now, or null: a side that cannot be read is frozen, not empty. */
export async function frozenBecause(sql: Sql, a: string, b: string): Promise<string | null> {
  const rows = await sql.rows<{
    name: string
    trouble: string | null
    state: string
    synced_at: number | null
    takes_part: number
  }>(
    `SELECT c.name, c.trouble, c.synced_at, c.takes_part, n.state FROM collections c
     JOIN connections n ON n.id = c.connection_id WHERE c.id IN (:a, :b)`,
    { a, b },
  )
  for (const r of rows) {
    if (r.trouble) return `${r.name}: ${r.trouble}`
    if (r.state === 'signed-out')
      return `${r.name}: its account is signed out. Sign in again under Connections.`
    if (!r.takes_part) return `${r.name} does not take part. Choose it under Connections.`
    if (r.synced_at === null) return `${r.name} is still being read for the first time.`
  }
  return rows.length < 2 ? 'One of its two sides is not connected.' : null
}

export async function ruleFor(
  sql: Sql,
  draft: { id: string; workspaceId: string; a: string; b: string; settings: RuleSettings; enabledAt: number },
): Promise<Rule> {
  const workspace = await sql.one<{ zone: string }>('SELECT zone FROM workspaces WHERE id = :id', {
    id: draft.workspaceId,
  })
  const side = (id: string) =>
    sql.one<{ zone: string | null; kind: string; description: string | null; scope: string }>(
      `SELECT n.zone, n.kind, n.description, n.scope FROM collections c JOIN connections n ON n.id = c.connection_id
       WHERE c.id = :id`,
      { id },
    )
  const [account, calendar] = [await side(draft.a), await side(draft.b)]
  // Notes that are not to come in from one side cannot be kept in step.
  const notes = [account, calendar].every(s => !s || scopeOf(s).notes)
  return {
    id: draft.id,
    a: draft.a,
    b: draft.b,
    settings: { ...draft.settings, notes: draft.settings.notes && notes },
    terms: {
      a: { zone: account?.zone ?? null, summaryMaxLength: summaryMaxLengthOf(account) },
      b: { zone: null, summaryMaxLength: null },
    },
    zone: workspace?.zone ?? 'UTC',
    enabledAt: draft.enabledAt,
  }
}

function summaryMaxLengthOf(account: { kind: string; description: string | null } | null): number | null {
  if (account?.kind !== 'http-json') return null
  const description = account.description
    ? (JSON.parse(account.description) as ServiceDescription)
    : shippedServices().find(s => s.id === 'bench-list')?.description
  return description ? capabilitiesOf({ kind: 'http-json', description }).summaryMaxLength : null
}

export const ruleOf = (sql: Sql, row: RuleRow): Promise<Rule> =>
  ruleFor(sql, {
    id: row.id,
    workspaceId: row.workspace_id,
    a: row.a_collection,
    b: row.b_collection,
    settings: RuleSettings.parse(JSON.parse(row.settings)),
    enabledAt: row.enabled_at,
  })

async function mirrorsById(sql: Sql, ids: string[]): Promise<Map<string, Mirror>> {
  const found = new Map<string, Mirror>()
  for (let i = 0; i < ids.length; i += 1000)
    for (const row of await sql.rows<MirrorRow>(`${MIRRORS} WHERE m.id IN (:ids)`, {
      ids: ids.slice(i, i + 1000),
    }))
      found.set(row.id, mirrorOf(row))
  return found
}

/**
 * What the planner is given. With `since`, only pairs with a side that changed after that number, and
 * untied items only if one of them did; cost follows what changed.
 */
export async function planInput(sql: Sql, rule: Rule, since: number | null, now: number): Promise<PlanInput> {
  const ties = await sql.rows<TieRow>(
    since === null
      ? 'SELECT id, a_mirror, b_mirror, base, released FROM ties WHERE rule_id = :rule AND released IS NULL'
      : `SELECT DISTINCT t.id, t.a_mirror, t.b_mirror, t.base, t.released FROM mirrors m
         JOIN ties t ON t.a_mirror = m.id OR t.b_mirror = m.id
         WHERE t.rule_id = :rule AND t.released IS NULL AND m.change_seq > :since`,
    { rule: rule.id, since },
  )
  const sides = await mirrorsById(
    sql,
    ties.flatMap(t => [t.a_mirror, t.b_mirror]).filter(id => id !== null),
  )
  const pairs = ties.map(row => ({
    tie: tieOf(row),
    a: (sides.get(row.a_mirror ?? '') as Mirror<Task> | undefined) ?? null,
    b: (sides.get(row.b_mirror ?? '') as Mirror<Event> | undefined) ?? null,
  }))
  const free = `FROM mirrors m LEFT JOIN own_layer o ON o.mirror_id = m.id
    LEFT JOIN ties t ON (t.a_mirror = m.id OR t.b_mirror = m.id) AND t.rule_id = :rule AND t.released IS NULL
    WHERE m.collection_id IN (:a, :b) AND m.presence = 'present' AND t.id IS NULL`
  const params = { rule: rule.id, a: rule.a, b: rule.b, since }
  const anyNew =
    since === null ||
    (await sql.one(`SELECT m.id ${free} AND m.change_seq > :since LIMIT 1`, params)) !== null
  const untied = anyNew
    ? (
        await sql.rows<MirrorRow>(
          `SELECT m.id, m.connection_id, m.collection_id, m.remote_id, m.revision, m.presence, m.item, m.seen,
             m.first_seen_at, m.change_seq, o.estimate_minutes ${free} ORDER BY m.first_seen_at, m.id`,
          params,
        )
      ).map(mirrorOf)
    : []
  const released = new Map<string, Tie>()
  if (anyNew || pairs.length > 0)
    for (const row of await sql.rows<TieRow>(
      'SELECT id, a_mirror, b_mirror, base, released FROM ties WHERE rule_id = :rule AND released IS NOT NULL ORDER BY made_at',
      { rule: rule.id },
    ))
      for (const id of [row.a_mirror, row.b_mirror]) if (id) released.set(id, tieOf(row))
  const open = await sql.rows<{ mirror_id: string | null; uid: string | null }>(
    `SELECT mirror_id, uid FROM intents WHERE workspace_id = (SELECT workspace_id FROM collections WHERE id = :a)
     AND state IN ('open', 'waiting')`,
    { a: rule.a },
  )
  return {
    rule,
    pairs,
    untied: {
      a: untied.filter((m): m is Mirror<Task> => m.item.kind === 'task'),
      b: untied.filter((m): m is Mirror<Event> => m.item.kind === 'event'),
    },
    released,
    busy: new Set(open.flatMap(i => i.mirror_id ?? [])),
    pendingUids: new Set(open.flatMap(i => i.uid ?? [])),
    now,
    idFor,
  }
}
