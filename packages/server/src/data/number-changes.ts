import type { ChangeToTell } from './change.ts'
import type { Sql } from './database.ts'

/**
 * Numbers the changes of a transaction, in its last statements. The counter's row lock makes numbers visible in
 * order, which an auto-increment does not. Workspaces are locked in one order, so that two transactions never wait
 * for each other.
 */
export async function numberChanges(
  sql: Sql,
  changes: readonly ChangeToTell[],
  taken = new Map<string, number>(),
): Promise<void> {
  const inOrder = [...changes].sort((x, y) =>
    x.workspaceId < y.workspaceId ? -1 : x.workspaceId > y.workspaceId ? 1 : 0,
  )
  for (const { workspaceId, change, mirrorIds } of inOrder) {
    const seq = taken.get(workspaceId) ?? (await takeNumber(sql, workspaceId))
    taken.delete(workspaceId)
    for (let i = 0; i < mirrorIds.length; i += 1000)
      await sql.run('UPDATE mirrors SET change_seq = :seq WHERE id IN (:ids)', {
        seq,
        ids: mirrorIds.slice(i, i + 1000),
      })
    await sql.insert('INSERT INTO changes (workspace_id, seq, body) VALUES (:workspaceId, :seq, :body)', {
      workspaceId,
      seq,
      body: JSON.stringify(change),
    })
  }
}

/** The next number; until the end of the commit, nobody else gets one of this workspace. */
export async function takeNumber(sql: Sql, workspaceId: string): Promise<number> {
  const taken = await sql.one<{ change_seq: number }>(
    `INSERT INTO change_counters (workspace_id, change_seq) VALUES (:workspaceId, 1)
     ON DUPLICATE KEY UPDATE change_seq = change_seq + 1 RETURNING change_seq`,
    { workspaceId },
  )
  if (!taken) throw new Error('a change got no number')
  return taken.change_seq
}

/** The number of the last change. */
export async function latestSeq(sql: Sql, workspaceId: string): Promise<number> {
  const row = await sql.one<{ change_seq: number }>(
    'SELECT change_seq FROM change_counters WHERE workspace_id = :workspaceId',
    { workspaceId },
  )
  return row?.change_seq ?? 0
}
