import type { PlannedWrite, ItemPatch, FieldChange, Item, OwnLayer } from '@loom/core'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Writes that are to be made at services: planned, on their way, and what became of them. */

export const INTENT_COLUMNS = `id, workspace_id, connection_id, collection_id, mirror_id, rule_id, member_id, tie_id, uid,
  body, cause, title, attempts, tried_at, made_at, pass_id, removal`

export interface IntentRow {
  id: string
  workspace_id: string
  connection_id: string
  collection_id: string
  mirror_id: string | null
  rule_id: string | null
  member_id: string | null
  tie_id: string | null
  uid: string | null
  body: Json<IntentBody>
  cause: string
  title: string
  /** How often it was tried before this time, and when last, epoch ms. */
  tries: number
  tried_before: number | null
  made_at: number
  pass_id: string | null
  removal: number
}

export interface Due {
  id: string
  tried_at: number | null
  /** Of what is a date: its series. */
  series_id: string | null
}

export interface OpenIntent {
  id: string
  /** Null for what is being made. */
  mirror_id: string | null
  collection_id: string
  cause: string
  body: Json<IntentBody>
}

export const droppedSince = (
  sql: Sql,
  p: { mirrorId: string; since: number },
): Promise<{ n: number } | null> =>
  sql.one(
    `SELECT COUNT(*) AS n FROM intents WHERE mirror_id = :mirrorId AND state = 'dropped' AND made_at > :since`,
    p,
  )

/** False where another is open for the same item. */
export const addIntentOnce = async (
  sql: Sql,
  p: {
    removal: number
    id: string
    nextTryAt: number
    body: Json<IntentBody>
    madeAt: number
    workspaceId: string
    connectionId: string
    collectionId: string
    mirrorId: string | null
    ruleId: string | null
    memberId: string | null
    tieId: string | null
    uid: string | null
    cause: string
    title: string
    state: string
    passId: string | null
  },
): Promise<boolean> =>
  (await sql.run(
    `INSERT IGNORE INTO intents (id, workspace_id, connection_id, collection_id, mirror_id, rule_id, member_id, tie_id,
       uid, body, cause, title, state, made_at, next_try_at, pass_id, removal)
     VALUES (:id, :workspaceId, :connectionId, :collectionId, :mirrorId, :ruleId, :memberId, :tieId,
       :uid, :body, :cause, :title, :state, :madeAt, :nextTryAt, :passId, :removal)`,
    p,
  )) === 1

export const lockLastUnsent = (
  sql: Sql,
  p: { mirrorId: string; memberId: string },
): Promise<{ id: string; body: Json<IntentBody> } | null> =>
  sql.one(
    `SELECT id, body FROM intents WHERE mirror_id = :mirrorId AND member_id = :memberId
     AND state IN ('open', 'waiting') AND attempts = 0 ORDER BY made_seq DESC LIMIT 1 FOR UPDATE`,
    p,
  )

export const putIntentBody = (sql: Sql, p: { id: string; body: Json<IntentBody> }): Promise<number> =>
  sql.run('UPDATE intents SET body = :body WHERE id = :id', p)

export const lockWaiting = (
  sql: Sql,
  p: { mirrorId: string },
): Promise<{ id: string; body: Json<IntentBody> }[]> =>
  sql.rows(
    `SELECT id, body FROM intents WHERE mirror_id = :mirrorId AND state = 'waiting' AND member_id IS NOT NULL FOR UPDATE`,
    p,
  )

export const setIntentState = (
  sql: Sql,
  p: { id: string; state: string; reason: string | null },
): Promise<number> => sql.run('UPDATE intents SET state = :state, reason = :reason WHERE id = :id', p)

export const openNextFor = (sql: Sql, p: { mirror: string }): Promise<number> =>
  sql.run(
    `UPDATE intents SET state = 'open' WHERE mirror_id = :mirror AND state = 'waiting' ORDER BY made_seq LIMIT 1`,
    p,
  )

export const setMirrorOfIntent = (sql: Sql, p: { id: string; of: string }): Promise<number> =>
  sql.run('UPDATE intents SET mirror_id = :id WHERE id = :of', p)

export const claimIntents = (sql: Sql, p: { ids: readonly string[]; now: number }): Promise<number> =>
  sql.run(
    `UPDATE intents SET attempts = attempts + 1, tried_at = :now WHERE id IN (:ids) AND state = 'open'`,
    p,
  )

export const claimedIntents = (
  sql: Sql,
  p: { ids: readonly string[] },
): Promise<(Omit<IntentRow, 'tries' | 'tried_before'> & { attempts: number })[]> =>
  sql.rows(
    `SELECT ${INTENT_COLUMNS} FROM intents WHERE id IN (:ids) AND state = 'open' ORDER BY member_id IS NULL, made_seq`,
    p,
  )

export const dueIntents = (sql: Sql, p: { id: string; now: number }): Promise<Due[]> =>
  sql.rows(
    `SELECT i.id, i.tried_at, m.series_id FROM intents i LEFT JOIN mirrors m ON m.id = i.mirror_id
     WHERE i.connection_id = :id AND i.state = 'open' AND i.next_try_at <= :now
     ORDER BY i.member_id IS NULL, i.made_seq LIMIT 200`,
    p,
  )

export const tryLater = (sql: Sql, p: { id: string; next: number; reason: string }): Promise<number> =>
  sql.run('UPDATE intents SET next_try_at = :next, reason = :reason WHERE id = :id', p)

export const openWrites = (
  sql: Sql,
  p: { a: string },
): Promise<
  {
    mirror_id: string | null
    uid: string | null
    a: string | null
    b: string | null
  }[]
> =>
  sql.rows(
    `SELECT i.mirror_id, i.uid, t.a_mirror AS a, t.b_mirror AS b FROM intents i LEFT JOIN ties t ON t.id = i.tie_id
     WHERE i.state IN ('open', 'waiting')
       AND i.workspace_id = (SELECT workspace_id FROM collections WHERE id = :a)`,
    p,
  )

export const openEditsOf = (sql: Sql, p: { workspaceId: string }): Promise<OpenIntent[]> =>
  sql.rows(
    `SELECT id, mirror_id, collection_id, cause, body FROM intents
     WHERE workspace_id = :workspaceId AND member_id IS NOT NULL AND state IN ('open', 'waiting') ORDER BY made_seq`,
    p,
  )

export const dropUnsentOfRules = (sql: Sql, p: { mirrorId: string }): Promise<number> =>
  sql.run(
    `UPDATE intents SET state = 'dropped', reason = 'Somebody changed it here.'
     WHERE mirror_id = :mirrorId AND state = 'open' AND attempts = 0 AND member_id IS NULL`,
    p,
  )

export const dropUnsentRemoval = (sql: Sql, p: { mirrorId: string; memberId: string }): Promise<number> =>
  sql.run(
    `UPDATE intents SET state = 'dropped', reason = 'Taken back.' WHERE mirror_id = :mirrorId AND member_id = :memberId
     AND state IN ('open', 'waiting') AND attempts = 0 AND JSON_VALUE(body, '$.by') = 'remover'`,
    p,
  )

export const dropUnsentOf = (
  sql: Sql,
  p: { workspaceId: string; memberId: string; uid: string },
): Promise<number> =>
  sql.run(
    `UPDATE intents SET state = 'dropped', reason = 'Taken back.' WHERE workspace_id = :workspaceId
         AND member_id = :memberId AND uid = :uid AND state = 'open' AND attempts = 0`,
    p,
  )

export const lastWithUid = (
  sql: Sql,
  p: { workspaceId: string; memberId: string; uid: string },
): Promise<{
  state: string
  cause: string
  mirror_id: string | null
  title: string
  recurring: number | null
} | null> =>
  sql.one(
    `SELECT i.state, i.cause, i.mirror_id, i.title, m.recurring FROM intents i LEFT JOIN mirrors m ON m.id = i.mirror_id AND m.presence = 'present'
     WHERE i.workspace_id = :workspaceId AND i.member_id = :memberId AND i.uid = :uid ORDER BY i.made_seq DESC LIMIT 1`,
    p,
  )

export const dropUnsentOfTie = (sql: Sql, p: { id: string; reason: string }): Promise<number> =>
  sql.run(
    `UPDATE intents SET state = 'dropped', reason = :reason WHERE tie_id = :id AND state = 'open' AND attempts = 0`,
    p,
  )

export const dropUnsentOfRule = (sql: Sql, p: { id: string; reason: string }): Promise<number> =>
  sql.run(
    `UPDATE intents SET state = 'dropped', reason = :reason WHERE rule_id = :id AND state = 'open' AND attempts = 0`,
    p,
  )

export const dropAllOfRule = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run(
    `UPDATE intents SET state = 'dropped' WHERE rule_id = :id AND state = 'open'
             AND (attempts = 0 OR asks_since IS NOT NULL)`,
    p,
  )

/**
 * One write that is decided and not yet confirmed. The database allows one open write for each remote item; edits
 * meanwhile wait.
 */
export type IntentBody =
  | { by: 'rule'; write: PlannedWrite }
  /** `before` is what the person saw: if the item says something else by then, it is not overwritten. */
  | {
      by: 'person'
      patch: ItemPatch
      before: ItemPatch
      /** The round of a repeating task that is completed. */
      occurrence?: string
      undoes?: number
      fields?: FieldChange[]
      /** Made once this is confirmed, and only then: what goes on as a series of its own. */
      then?: { item: Item; original: string; binds?: string[] }
    }
  /**
   * An item made here or imported from a file. `binds`: ties that will get its event; `own`: our own layer for it.
   * Both are settled when its service has confirmed it.
   */
  | {
      by: 'maker'
      item: Item
      original: string | null
      undoes?: number
      binds?: string[]
      own?: Partial<OwnLayer>
    }
  /** Somebody takes back what was made. */
  | { by: 'remover'; revision: string; fields: FieldChange[]; undoes?: number }

/** The name of the member who last wrote to one of these since then, other than `but`. */
export const lastEditor = async (
  sql: Sql,
  p: { ids: readonly string[]; since: number; but: string },
): Promise<string | null> =>
  (
    await sql.one<{ name: string }>(
      `SELECT w.name FROM intents i JOIN members w ON w.id = i.member_id
       WHERE i.mirror_id IN (:ids) AND i.made_at >= :since AND i.member_id <> :but AND i.state <> 'dropped'
       ORDER BY i.made_at DESC LIMIT 1`,
      { ...p, ids: ['', ...p.ids] },
    )
  )?.name ?? null
