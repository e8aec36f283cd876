import { type Json, parsed } from '../json.ts'
import { epochOf, EventKind, noOwnLayer, type OwnLayer, When } from '@loom/core'
import type { Sql } from '../database.ts'

/** What we keep on an item because its service cannot hold it. */

export interface OwnRow {
  own_estimate: number | null
  /** A `When` as JSON. */
  plan: Json<unknown> | null
  plan_minutes: number | null
  week_of: string | null
  put_by: string | null
  spent: number | null
  movable: number | null
  event_kind: string | null
  private: number | null
  slips: number | null
}

/** For a query in which `o` is the own layer. */
export const OWN_COLUMNS =
  'o.estimate_minutes AS own_estimate, o.plan, o.plan_minutes, o.week_of, o.put_by, o.spent, o.movable, o.event_kind, o.private, o.slips'

/** The same as one JSON text, null where nothing is kept: most items have none, and columns are dear to read. */
export const OWN_TEXT = `IF(o.mirror_id IS NULL, NULL, CAST(JSON_OBJECT('own_estimate', o.estimate_minutes, 'plan', o.plan,
  'plan_minutes', o.plan_minutes, 'week_of', o.week_of, 'put_by', o.put_by, 'spent', o.spent, 'movable', o.movable, 'event_kind', o.event_kind, 'private', o.private, 'slips', o.slips) AS CHAR))`

const COLUMN: Record<keyof OwnLayer, string> = {
  estimate: 'estimate_minutes',
  plan: 'plan',
  planMinutes: 'plan_minutes',
  week: 'week_of',
  putBy: 'put_by',
  spent: 'spent',
  movable: 'movable',
  eventKind: 'event_kind',
  private: 'private',
  slips: 'slips',
}

export function ownLayerOf(row: OwnRow): OwnLayer {
  const kind = EventKind.safeParse(row.event_kind)
  return {
    ...noOwnLayer,
    estimate: row.own_estimate,
    plan: row.plan === null ? null : When.parse(parsed(row.plan)),
    planMinutes: row.plan_minutes,
    week: row.week_of,
    putBy: row.put_by,
    spent: row.spent === 1,
    movable: row.movable === null ? null : row.movable === 1,
    eventKind: kind.success ? kind.data : null,
    private: row.private === 1,
    slips: row.slips ?? 0,
  }
}

function stored(value: OwnLayer[keyof OwnLayer] | undefined): string | number | null {
  if (typeof value === 'boolean') return Number(value)
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : (value ?? null)
}

export async function putOwnLayer(
  sql: Sql,
  workspaceId: string,
  mirrorId: string,
  layer: Partial<OwnLayer>,
): Promise<void> {
  const names = (Object.keys(layer) as (keyof OwnLayer)[]).filter(k => layer[k] !== undefined)
  if (names.length === 0) return
  const values: Record<string, string | number | null> = Object.fromEntries(
    names.map(n => [COLUMN[n], stored(layer[n])]),
  )
  // A day counts from midnight in UTC: what looks for it looks a day further on either side.
  if (layer.plan !== undefined) values.plan_ms = layer.plan && epochOf(layer.plan, 'UTC')
  const columns = Object.keys(values)
  await sql.insert(
    `INSERT INTO own_layer (mirror_id, workspace_id, ${columns.join(', ')})
     VALUES (:mirrorId, :workspaceId, ${columns.map(c => `:${c}`).join(', ')})
     ON DUPLICATE KEY UPDATE ${columns.map(c => `${c} = VALUES(${c})`).join(', ')}`,
    { mirrorId, workspaceId, ...values },
  )
}

/** `noOwnLayer` itself where nothing is kept. */
export async function ownLayerOn(sql: Sql, mirrorId: string): Promise<OwnLayer> {
  const row = await sql.one<OwnRow>(`SELECT ${OWN_COLUMNS} FROM own_layer o WHERE o.mirror_id = :mirrorId`, {
    mirrorId,
  })
  return row ? ownLayerOf(row) : noOwnLayer
}

/**
 * What is kept on one item goes along to another, when work moves to another list: all but its time, which it brings
 * itself.
 */
export async function copyOwnLayer(sql: Sql, workspaceId: string, from: string, to: string): Promise<void> {
  const kept = await ownLayerOn(sql, from)
  if (kept === noOwnLayer) return
  const { plan: _, planMinutes: __, ...layer } = kept
  const said = Object.entries(layer).filter(([, value]) => value !== null)
  await putOwnLayer(sql, workspaceId, to, Object.fromEntries(said))
}

export const noteFirstSlip = (sql: Sql, p: { mirrorId: string; now: number }): Promise<number> =>
  sql.run('UPDATE own_layer SET slipped_at = IFNULL(slipped_at, :now) WHERE mirror_id = :mirrorId', p)

/** Open tasks that slipped, the most often first; epoch ms of the first time, where that is known. */
export const slippedTasks = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<{ id: string; since: number | null }[]> =>
  sql.rows(
    `SELECT o.mirror_id AS id, o.slipped_at AS since FROM own_layer o JOIN mirrors m ON m.id = o.mirror_id
     WHERE o.workspace_id = :workspaceId AND o.slips > 0 AND m.open_task = 1 AND m.presence = 'present'
     ORDER BY o.slips DESC, o.mirror_id LIMIT 400`,
    p,
  )
