import type { Cause, Kept, LaidPiece, Stretch } from '@loom/core/planning'
import { json, type Json, parsed } from '../json.ts'
import type { Sql } from '../database.ts'

/** What drafts have laid for a person, and what of it was moved by itself. */

interface LaidRow {
  id: string
  key: string
  task_id: string
  wrote_from: number
  wrote_to: number
  before_from: number | null
  before_to: number | null
  base_from: number | null
  base_to: number | null
  moves: Json<LaidPiece['moves']>
  held_for: Json<Cause> | null
  due: number | null
}

const stretch = (from: number | null, to: number | null): Stretch | null =>
  from === null || to === null ? null : { fromMs: Number(from), toMs: Number(to) }

/** Of one person, from then on; what no service has confirmed yet is left out, as nothing can be done with it. */
export async function laidFrom(sql: Sql, p: { memberId: string; from: number }): Promise<LaidPiece[]> {
  const rows = await sql.rows<LaidRow>(
    `SELECT l.*, IFNULL(l.mirror_id, t.b_mirror) AS \`key\` FROM laid_pieces l
       LEFT JOIN ties t ON t.id = l.tie_id AND t.released IS NULL
     WHERE l.member_id = :memberId AND l.wrote_to > :from AND IFNULL(l.mirror_id, t.b_mirror) IS NOT NULL
     ORDER BY l.wrote_from, l.id LIMIT 2000`,
    p,
  )
  return rows.map(r => ({
    id: r.id,
    key: r.key,
    task: r.task_id,
    wrote: { fromMs: Number(r.wrote_from), toMs: Number(r.wrote_to) },
    before: stretch(r.before_from, r.before_to),
    base: stretch(r.base_from, r.base_to),
    moves: parsed(r.moves),
    heldFor: r.held_for === null ? null : parsed(r.held_for),
    due: r.due === null ? null : Number(r.due),
  }))
}

export interface FreshPiece {
  id: string
  workspaceId: string
  memberId: string
  /** Either of both: a block that is being made has only its tie. */
  mirrorId: string | null
  tieId: string | null
  task: string
  wrote: Stretch
  before: Stretch | null
  due: number | null
}

/** What was laid there before is laid anew. */
export async function lay(sql: Sql, p: FreshPiece): Promise<void> {
  if (p.mirrorId !== null)
    await sql.run('DELETE FROM laid_pieces WHERE member_id = :memberId AND mirror_id = :mirrorId', {
      memberId: p.memberId,
      mirrorId: p.mirrorId,
    })
  await sql.insert(
    `INSERT INTO laid_pieces (id, workspace_id, member_id, mirror_id, tie_id, task_id, wrote_from, wrote_to,
       before_from, before_to, moves, due)
     SELECT :id, :workspaceId, :memberId, :mirrorId, :tieId, :task, :from, :to, :beforeFrom, :beforeTo, '[]', :due
       FROM mirrors WHERE id = :task`,
    {
      id: p.id,
      workspaceId: p.workspaceId,
      memberId: p.memberId,
      mirrorId: p.mirrorId,
      tieId: p.tieId,
      task: p.task,
      from: p.wrote.fromMs,
      to: p.wrote.toMs,
      beforeFrom: p.before?.fromMs ?? null,
      beforeTo: p.before?.toMs ?? null,
      due: p.due,
    },
  )
}

export const putLaid = (sql: Sql, piece: LaidPiece): Promise<number> =>
  sql.run(
    `UPDATE laid_pieces SET mirror_id = :key, wrote_from = :from, wrote_to = :to, before_from = :beforeFrom,
       before_to = :beforeTo, base_from = :baseFrom, base_to = :baseTo, moves = :moves, held_for = :heldFor, due = :due
     WHERE id = :id`,
    {
      id: piece.id,
      key: piece.key,
      from: piece.wrote.fromMs,
      to: piece.wrote.toMs,
      beforeFrom: piece.before?.fromMs ?? null,
      beforeTo: piece.before?.toMs ?? null,
      baseFrom: piece.base?.fromMs ?? null,
      baseTo: piece.base?.toMs ?? null,
      moves: json(piece.moves),
      heldFor: piece.heldFor === null ? null : json(piece.heldFor),
      due: piece.due,
    },
  )

export async function dropOldLaid(
  sql: Sql,
  p: { workspaceId: string; before: number; passesBefore: number },
): Promise<void> {
  await sql.run('DELETE FROM laid_pieces WHERE workspace_id = :workspaceId AND wrote_to < :before', p)
  await sql.run('DELETE FROM kept_up WHERE workspace_id = :workspaceId AND at < :passesBefore', p)
}

/** Those who have a window that is kept up, and something laid ahead. */
export const membersKeepingUp = (
  sql: Sql,
  p: { now: number },
): Promise<{ member: string; workspace: string; seq: number; isClockOn: number }[]> =>
  sql.rows(
    `SELECT p.member_id AS member, p.workspace_id AS workspace, c.change_seq AS seq,
       (SELECT COUNT(*) FROM ledgers l WHERE l.member_id = p.member_id AND l.clock_from_ms IS NOT NULL) AS isClockOn
     FROM planning p JOIN members m ON m.id = p.member_id AND m.left_at IS NULL
       JOIN change_counters c ON c.workspace_id = p.workspace_id
     WHERE p.keeps_up = 1
       AND EXISTS (SELECT 1 FROM laid_pieces l WHERE l.member_id = p.member_id AND l.wrote_to > :now)`,
    p,
  )

/** Of several servers one does it. Whether it is this one; both in epoch ms of the machine. */
export const claimKeepingUp = async (
  sql: Sql,
  p: { memberId: string; wall: number; before: number },
): Promise<boolean> =>
  (await sql.run(
    'UPDATE planning SET kept_at = :wall WHERE member_id = :memberId AND kept_at <= :before',
    p,
  )) === 1

export interface PassStep {
  /** Of the laid piece. */
  piece: string
  key: string
  title: string
  from: Stretch
  to: Stretch
  cause: Cause | null
}
export interface PassAsk {
  key: string
  title: string
  at: Stretch
  cause: Cause
  because: Kept['asks'][number]['because']
}
/** What was done of it, told in the order in which it was written. */
export interface Pass {
  steps: PassStep[]
  asks: PassAsk[]
  /** What was refused, after which nothing more was written. */
  refused: { title: string; reason: string } | null
}

export interface PassRow {
  id: string
  at: number
  body: Json<Pass>
  undone_at: number | null
  seen: number
}

export const addPass = (
  sql: Sql,
  p: { id: string; workspaceId: string; memberId: string; at: number; body: Json<Pass> },
): Promise<void> =>
  sql.insert(
    `INSERT INTO kept_up (id, workspace_id, member_id, at, body) VALUES (:id, :workspaceId, :memberId, :at, :body)`,
    p,
  )

export const passesOf = (sql: Sql, p: { memberId: string; from: number }): Promise<PassRow[]> =>
  sql.rows(
    `SELECT id, at, body, undone_at, seen FROM kept_up WHERE member_id = :memberId AND at >= :from
     ORDER BY at DESC, id LIMIT 50`,
    p,
  )

export const lockPass = (sql: Sql, p: { id: string; memberId: string }): Promise<PassRow | null> =>
  sql.one(
    'SELECT id, at, body, undone_at, seen FROM kept_up WHERE id = :id AND member_id = :memberId FOR UPDATE',
    p,
  )

export const markPassUndone = (sql: Sql, p: { id: string; now: number }): Promise<number> =>
  sql.run('UPDATE kept_up SET undone_at = :now WHERE id = :id', p)

export const markPassesSeen = (sql: Sql, p: { memberId: string }): Promise<number> =>
  sql.run('UPDATE kept_up SET seen = 1 WHERE member_id = :memberId AND seen = 0', p)
