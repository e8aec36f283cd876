import type { Json } from '../json.ts'
import { containing } from '../like.ts'
import { PRIVACY } from './privacy.ts'
import { RULE_NAME } from './rules.ts'
import type { Sql } from '../database.ts'
import type { Side, FieldChange } from '@loom/core'

/** What was changed, where, by whom and why. Entries are only added. */

export interface EntryToUndo {
  id: number
  rule_id: string | null
  tie_id: string | null
  mirror_id: string | null
  collection_id: string
  title: string
  op: 'create' | 'patch' | 'delete' | 'override'
  side: Side | null
  fields: Json<FieldChange[]>
  outcome: string
  undone_at: number | null
  original: string | null
  /** Of one date of a series: the series, and which of its dates. */
  series_id: string | null
  occurrence: string | null
}

export const MOST_ENTRIES = 2000

export interface SummaryLine {
  at: number
  title: string
  place: string
  rule: string | null
  op: 'create' | 'patch' | 'delete' | 'override'
  outcome: 'done' | 'refused' | 'overridden' | 'unknown'
  cause: string
  reason: string | null
  fields: FieldChange[]
}

export const addEntry = (
  sql: Sql,
  p: {
    removal: number
    fields: Json<FieldChange[]>
    workspaceId: string
    at: number
    ruleId: string | null
    memberId: string | null
    tieId: string | null
    mirrorId: string | null
    collectionId: string
    title: string
    privacy: 0 | 1 | 2
    op: string
    cause: string
    outcome: string
    reason: string | null
    tookMs: number | null
    waitedMs: number | null
    side: string | null
    passId: string | null
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO journal (workspace_id, at, rule_id, member_id, tie_id, mirror_id, collection_id, place, title, op,
       cause, fields, outcome, reason, took_ms, waited_ms, side, pass_id, removal, privacy)
     SELECT :workspaceId, :at, :ruleId, :memberId, :tieId, :mirrorId, :collectionId,
       (SELECT CONCAT(n.name, ' · ', c.name) FROM collections c JOIN connections n ON n.id = c.connection_id
        WHERE c.id = :collectionId),
       :title, :op, :cause, :fields, :outcome, :reason, :tookMs, :waitedMs, :side, :passId, :removal,
       GREATEST(:privacy, IFNULL((SELECT MAX(${PRIVACY}) FROM mirrors m LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id)
         LEFT JOIN ties t ON t.id = :tieId WHERE m.id IN (:mirrorId, t.a_mirror, t.b_mirror)), 0))`,
    p,
  )

/** Lists and calendars of which somebody sees everything: of what is open, of what is classed, of what is marked. */
export type SeenLines = Record<'open' | 'classed' | 'marked', readonly string[]>

/**
 * Lines that are for somebody to see, for a query of the journal `j`: as private as the item was then and, where it is
 * there, is now.
 */
const SEEN = `(j.collection_id IN (:marked)
  OR j.collection_id IN (:classed) AND j.privacy < 2
    AND NOT EXISTS (SELECT 1 FROM own_layer o WHERE o.mirror_id = j.mirror_id AND o.private = 1)
  OR j.collection_id IN (:open) AND j.privacy = 0 AND NOT EXISTS (SELECT 1 FROM mirrors m
    LEFT JOIN own_layer o ON o.mirror_id = IFNULL(m.series_id, m.id) WHERE m.id = j.mirror_id AND ${PRIVACY} > 0))`
const listsOf = ({ open, classed, marked }: SeenLines) => ({
  open: ['', ...open],
  classed: ['', ...classed],
  marked: ['', ...marked],
})

export const keepOriginal = (
  sql: Sql,
  p: { workspaceId: string; original: string; until: number },
): Promise<void> =>
  sql.insert(
    `INSERT INTO kept_originals (journal_id, workspace_id, original, until)
     VALUES (LAST_INSERT_ID(), :workspaceId, :original, :until)`,
    p,
  )

export const markUndone = (sql: Sql, p: { entry: number; now: number }): Promise<number> =>
  sql.run('UPDATE journal SET undone_at = :now WHERE id = :entry', p)

/** Of these, those that somebody may see and put back. */
export const entriesToPutBack = async (
  sql: Sql,
  p: { workspaceId: string; ids: readonly number[]; seen: SeenLines; mine: readonly string[] },
): Promise<number[]> => {
  if (p.ids.length === 0) return []
  const rows = await sql.rows<{ id: number }>(
    `SELECT j.id FROM journal j WHERE j.workspace_id = :workspaceId AND j.id IN (:ids)
       AND (j.rule_id IS NULL OR j.rule_id IN (:mine)) AND ${SEEN}`,
    { workspaceId: p.workspaceId, ids: p.ids, mine: ['', ...p.mine], ...listsOf(p.seen) },
  )
  return rows.map(r => r.id)
}

export const entriesToUndo = (
  sql: Sql,
  p: { workspaceId: string; ids: readonly number[] },
): Promise<EntryToUndo[]> =>
  sql.rows(
    `SELECT j.id, j.rule_id, j.tie_id, j.mirror_id, j.collection_id, j.title, j.op, j.side, j.fields, j.outcome,
       j.undone_at, k.original, m.series_id, m.occurrence
     FROM journal j LEFT JOIN kept_originals k ON k.journal_id = j.id LEFT JOIN mirrors m ON m.id = j.mirror_id
     WHERE j.workspace_id = :workspaceId AND j.id IN (:ids) ORDER BY j.id DESC`,
    p,
  )

export const undoableOfPass = (
  sql: Sql,
  p: { workspaceId: string; pass: string; seen: SeenLines; mine: readonly string[] },
): Promise<{ id: number }[]> =>
  sql.rows(
    `SELECT j.id FROM journal j WHERE j.workspace_id = :workspaceId AND j.pass_id = :pass
             AND (j.rule_id IS NULL OR j.rule_id IN (:mine))
             AND j.outcome = 'done' AND j.op <> 'override' AND j.undone_at IS NULL AND ${SEEN}
             ORDER BY j.id DESC LIMIT 500`,
    { workspaceId: p.workspaceId, pass: p.pass, mine: ['', ...p.mine], ...listsOf(p.seen) },
  )

export const carriedByRule = (
  sql: Sql,
  p: { workspaceId: string; since: number },
): Promise<{ rule: string; side: 'a' | 'b'; n: number; delay: number | null }[]> =>
  sql.rows(
    `SELECT rule_id AS rule, side, COUNT(*) AS n, ROUND(AVG(waited_ms)) AS delay FROM journal
         WHERE workspace_id = :workspaceId AND at > :since AND outcome = 'done' AND side IS NOT NULL AND rule_id IS NOT NULL
         GROUP BY rule_id, side`,
    p,
  )

export const entriesOfDay = (
  sql: Sql,
  p: { workspace: string; from: number; to: number; rules: readonly string[]; seen: SeenLines },
): Promise<(Omit<SummaryLine, 'fields'> & { collection: string; fields: Json<FieldChange[]> })[]> =>
  sql.rows(
    `SELECT j.at, j.title, j.place, j.op, j.outcome, j.cause, j.reason, j.fields,
         j.collection_id AS collection, IF(r.id IN (:rules), IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name)), IF(r.id IS NULL, NULL, 'a rule')) AS rule
       FROM journal j LEFT JOIN rules r ON r.id = j.rule_id LEFT JOIN collections a ON a.id = r.a_collection
         LEFT JOIN collections b ON b.id = r.b_collection
       WHERE j.workspace_id = :workspace AND j.at >= :from AND j.at < :to AND j.rule_id IS NOT NULL
         AND ${SEEN} ORDER BY j.id LIMIT ${MOST_ENTRIES}`,
    { workspace: p.workspace, from: p.from, to: p.to, rules: ['', ...p.rules], ...listsOf(p.seen) },
  )

const PATCHED_BY_RULE = `j.op = 'patch' AND j.outcome = 'done' AND j.at > :since AND j.rule_id IS NOT NULL`

export const oftenWritten = (
  sql: Sql,
  p: { ids: readonly string[]; since: number; often: number },
): Promise<{ mirror_id: string }[]> =>
  sql.rows(
    `SELECT mirror_id FROM journal j WHERE mirror_id IN (:ids) AND ${PATCHED_BY_RULE}
     GROUP BY mirror_id HAVING COUNT(*) >= :often`,
    p,
  )

/** Newest first. */
export const writesOfRules = (
  sql: Sql,
  p: { ids: readonly string[]; since: number },
): Promise<{ mirror_id: string; rule_id: string; fields: Json<FieldChange[]>; name: string }[]> =>
  sql.rows(
    `SELECT j.mirror_id, j.rule_id, j.fields, ${RULE_NAME} AS name
     FROM journal j JOIN rules r ON r.id = j.rule_id JOIN collections a ON a.id = r.a_collection
       JOIN collections b ON b.id = r.b_collection
     WHERE j.mirror_id IN (:ids) AND ${PATCHED_BY_RULE} ORDER BY j.id DESC`,
    p,
  )

/** What somebody looks for in the journal; what is not given is not asked for. */
export interface JournalQuery {
  /** An entry's id: only older ones. */
  before?: number | undefined
  /** In titles. */
  words?: string | undefined
  rule?: string | undefined
  who?: string | undefined
  /** A connection. */
  service?: string | undefined
  field?: string | undefined
  outcome?: string | undefined
  /** Mirrors: of any of them. */
  items?: readonly string[] | undefined
  pass?: string | undefined
}

export interface JournalLine {
  id: number
  at: number
  title: string
  place: string
  op: 'create' | 'patch' | 'delete' | 'override'
  cause: string
  outcome: 'done' | 'refused' | 'overridden' | 'unknown'
  reason: string | null
  who: string | null
  rule: string | null
  item: string | null
  tookMs: number | null
  /** The pass it belongs to; null for what people did. */
  pass: string | null
  undoneAt: number | null
  /** Whether a rule wrote this and it may be put back. */
  undoable: number
}

const CONDITIONS: [keyof JournalQuery, string][] = [
  ['before', 'j.id < :before'],
  ['words', 'LOWER(j.title) LIKE :like'],
  ['rule', 'j.rule_id = :rule'],
  ['who', 'j.member_id = :who'],
  ['service', 'j.collection_id IN (SELECT id FROM collections WHERE connection_id = :service)'],
  ['field', 'j.fields LIKE :fieldLike'],
  ['outcome', 'j.outcome = :outcome'],
  ['items', 'j.mirror_id IN (:items)'],
  ['pass', 'j.pass_id = :pass'],
]

/** Newest first. */
/** @param mine the rules that whoever asks may change: of others the name is not told */
export const journalEntries = (
  sql: Sql,
  workspaceId: string,
  query: JournalQuery,
  { most, seen, mine }: { most: number; seen: SeenLines; mine: readonly string[] },
): Promise<(JournalLine & { collection: string; fields: Json<FieldChange[]> })[]> => {
  const asked = CONDITIONS.flatMap(([name, condition]) => (query[name] ? [condition] : []))
  return sql.rows(
    `SELECT j.id, j.at, j.title, j.place, j.op, j.cause, j.outcome, j.reason, j.took_ms AS tookMs, j.fields,
       j.collection_id AS collection, j.pass_id AS pass, j.undone_at AS undoneAt,
       (j.rule_id IN (:mine) AND j.outcome = 'done' AND j.op <> 'override' AND j.undone_at IS NULL) AS undoable,
       j.mirror_id AS item, m.name AS who, IF(r.id IS NULL, NULL, IF(r.id IN (:mine), ${RULE_NAME}, 'a rule')) AS rule
     FROM journal j LEFT JOIN members m ON m.id = j.member_id LEFT JOIN rules r ON r.id = j.rule_id
       LEFT JOIN collections a ON a.id = r.a_collection LEFT JOIN collections b ON b.id = r.b_collection
     WHERE ${['j.workspace_id = :workspaceId', SEEN, ...asked].join(' AND ')} ORDER BY j.id DESC LIMIT :most`,
    {
      ...query,
      workspaceId,
      most,
      mine: ['', ...mine],
      ...listsOf(seen),
      like: containing(query.words ?? ''),
      fieldLike: `%"field":"${(query.field ?? '').replace(/[^a-zA-Z]/g, '')}"%`,
    },
  )
}
