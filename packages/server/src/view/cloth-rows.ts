import type { Sql } from '../data/database.ts'
import { keep } from './sources.ts'
import {
  countOnShelf,
  type Instants,
  MOST_LEFT_OVER,
  MOST_ON_SHELF,
  type Row,
  rowsDecided,
  rowsLeftOver,
  rowsOnShelf,
  rowsPlannedByUs,
  rowsReachingIn,
  rowsShown,
  rowsWithin,
} from '../data/repositories/cloth.ts'

/** The items of some days with their versions and ties: all of them, or those that may have changed. */

/** By the mirror's id. */
export type Rows = ReadonlyMap<string, readonly Row[]>

function add(to: Map<string, readonly Row[]>, rows: readonly Row[]): void {
  const fresh = new Map<string, Row[]>()
  for (const row of rows) {
    const held = fresh.get(row.id)
    if (held) held.push(row)
    else fresh.set(row.id, [row])
  }
  for (const [id, held] of fresh) to.set(id, held)
}

export interface Whole {
  rows: Rows
  /** There is more than is looked at: what is read on from it holds what has changed, and not what moves up. */
  bounded: boolean
  /** How many tasks of the shelf are not among them. */
  beyond: number
}

export async function wholeRows(sql: Sql, workspaceId: string, at: Instants): Promise<Whole> {
  const params = { ...at, workspaceId }
  // Sent all at once, and answered one after the other. As one UNION they take twice as long.
  const [within, reaching, shelf, leftOver, planned] = await Promise.all([
    rowsWithin(sql, params),
    rowsReachingIn(sql, params),
    rowsOnShelf(sql, params),
    rowsLeftOver(sql, params),
    rowsPlannedByUs(sql, params),
  ])
  const rows = new Map<string, readonly Row[]>()
  for (const part of [within, reaching, shelf, leftOver, planned]) add(rows, part)
  if (shelf.length < MOST_ON_SHELF) return { rows, bounded: leftOver.length >= MOST_LEFT_OVER, beyond: 0 }
  const decided = await rowsDecided(sql, params)
  add(rows, decided)
  const held = new Set([...shelf, ...decided].map(r => r.id))
  return { rows, bounded: true, beyond: (await countShelf(sql, workspaceId, at.only)) - held.size }
}

async function countShelf(sql: Sql, workspaceId: string, only: Instants['only']): Promise<number> {
  const found = await countOnShelf(sql, { workspaceId, only })
  return Number(found?.n ?? 0)
}

/**
 * Reads the changed items, and those they were or are tied to, completely again.
 * @param changed with what is tied to them now
 */
export async function patchedRows(
  sql: Sql,
  workspaceId: string,
  at: Instants,
  before: Rows,
  changed: readonly string[],
): Promise<Rows> {
  if (changed.length === 0) return before
  const ids = new Set(changed)
  const touches = (id: string | null): boolean => id !== null && ids.has(id)
  const were: string[] = []
  for (const [id, held] of before) if (held.some(r => touches(r.to_a) || touches(r.to_b))) were.push(id)
  for (const id of were) ids.add(id)
  const rows = new Map(before)
  for (const id of ids) rows.delete(id)
  const read = await rowsShown(sql, { ...at, workspaceId, ids: [...ids] })
  for (const row of read) keep(row)
  add(
    rows,
    read.filter(r => r.shown === 1),
  )
  return rows
}
