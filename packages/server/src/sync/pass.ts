import { type Decision, plan, type Rule } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { numberChange } from './changes.ts'
import type { Context } from './context.ts'
import { addIntent } from './intents.ts'
import { writeJournal } from './journal.ts'
import { awaitLease, type Lease } from './leases.ts'
import { frozenBecause, planInput, ruleOf, type RuleRow } from './rules.ts'

/** Plans what the rules of a workspace ask for and records it as intents. No HTTP happens here. */

/** Returns the connections that have something to write now. `full` plans everything anew. */
export async function planWorkspace(ctx: Context, workspaceId: string, full = false): Promise<string[]> {
  const lease = await awaitLease(ctx.db, workspaceId, `rules:${workspaceId}`)
  if (!lease) return []
  try {
    const rules = await ctx.db.rows<RuleRow>(
      `SELECT * FROM rules WHERE workspace_id = :workspaceId AND state = 'on' ORDER BY enabled_at, id`,
      { workspaceId },
    )
    const connections = new Set<string>()
    for (const row of rules) for (const id of await passOf(ctx, row, lease, full)) connections.add(id)
    return [...connections]
  } finally {
    await lease.release()
  }
}

async function passOf(ctx: Context, row: RuleRow, lease: Lease, full: boolean): Promise<string[]> {
  const since = full || row.planned_seq < 0 ? null : row.planned_seq
  const planned = await ctx.db.snapshot(async sql => {
    const seq = await sql.one<{ change_seq: number }>('SELECT change_seq FROM workspaces WHERE id = :id', {
      id: row.workspace_id,
    })
    const until = seq?.change_seq ?? 0
    if (since !== null && until <= since) return null
    const frozen = await frozenBecause(sql, row.a_collection, row.b_collection)
    if (frozen) return { frozen, until, rule: null, decisions: [] }
    const rule = await ruleOf(sql, row)
    return { frozen: null, until, rule, decisions: plan(await planInput(sql, rule, since, ctx.now())) }
  })
  if (!planned) return []
  const { frozen, until, rule, decisions } = planned
  if (frozen || !rule) {
    await notice(ctx, row, frozen ? [frozen] : [])
    return []
  }
  const notices = decisions.flatMap(d => d.held.map(h => `${d.title}: ${h.reason}`))
  const connections = await ctx.db.transaction(async sql => {
    await lease.check(sql)
    const written = await record(ctx, sql, row, rule, decisions)
    await sql.run(
      'UPDATE rules SET planned_seq = :until, last_pass_at = :now WHERE id = :id AND planned_seq < :until',
      {
        id: row.id,
        until,
        now: ctx.now(),
      },
    )
    if (written.length > 0) await numberChange(sql, row.workspace_id, { topics: ['rules'] })
    return written
  })
  await notice(
    ctx,
    row,
    since === null || notices.length > 0 ? notices : (JSON.parse(row.notices) as string[]),
  )
  if (connections.length > 0) ctx.feed.nudge()
  return connections
}

async function notice(ctx: Context, row: RuleRow, notices: string[]): Promise<void> {
  const text = JSON.stringify(notices)
  if (text === row.notices) return
  await ctx.db.transaction(async sql => {
    await sql.run('UPDATE rules SET notices = :text WHERE id = :id', { id: row.id, text })
    await numberChange(sql, row.workspace_id, { topics: ['rules'] })
  })
  ctx.feed.nudge()
}

interface Home {
  id: string
  connection_id: string
}

async function homesOf(sql: Sql, rule: Rule, decisions: Decision[]): Promise<Map<string, Home>> {
  const ids = decisions.flatMap(d => d.writes.flatMap(w => (w.op === 'create' ? [] : [w.mirrorId])))
  const homes = new Map<string, Home>()
  for (const h of await sql.rows<Home>('SELECT id, connection_id FROM collections WHERE id IN (:ids)', {
    ids: [rule.a, rule.b],
  }))
    homes.set(h.id, h)
  for (let i = 0; i < ids.length; i += 1000)
    for (const m of await sql.rows<{ id: string; collection_id: string; connection_id: string }>(
      'SELECT id, collection_id, connection_id FROM mirrors WHERE id IN (:ids)',
      { ids: ids.slice(i, i + 1000) },
    ))
      homes.set(m.id, { id: m.collection_id, connection_id: m.connection_id })
  return homes
}

async function record(
  ctx: Context,
  sql: Sql,
  row: RuleRow,
  rule: Rule,
  decisions: Decision[],
): Promise<string[]> {
  const homes = await homesOf(sql, rule, decisions)
  const connections = new Set<string>()
  for (const d of decisions) {
    if (!d.tie) continue
    await sql.insert(
      `INSERT INTO ties (id, workspace_id, rule_id, rule_version, a_mirror, b_mirror, base, released, made_at)
       VALUES (:id, :workspaceId, :rule, :version, :a, :b, :base, :released, :now)
       ON DUPLICATE KEY UPDATE base = VALUES(base), released = VALUES(released), rule_version = VALUES(rule_version)`,
      {
        id: d.tie.id,
        workspaceId: row.workspace_id,
        rule: rule.id,
        version: row.version,
        a: d.tie.a,
        b: d.tie.b,
        base: JSON.stringify(d.tie.base),
        released: d.tie.released,
        now: ctx.now(),
      },
    )
    for (const o of d.overridden)
      await writeJournal(sql, {
        workspaceId: row.workspace_id,
        at: ctx.now(),
        ruleId: rule.id,
        tieId: d.tie.id,
        mirrorId: o.side === 'a' ? d.a : d.b,
        collectionId: o.side === 'a' ? rule.a : rule.b,
        title: d.title,
        op: 'override',
        cause: o.because,
        fields: [{ field: o.field, before: o.value, after: null }],
        outcome: 'overridden',
      })
    for (const write of d.writes) {
      const home = homes.get(write.op === 'create' ? write.collectionId : write.mirrorId)
      if (!home) continue
      const added = await addIntent(sql, {
        workspaceId: row.workspace_id,
        connectionId: home.connection_id,
        collectionId: home.id,
        mirrorId: write.op === 'create' ? null : write.mirrorId,
        uid: write.op === 'create' ? write.item.uid : null,
        ruleId: rule.id,
        memberId: null,
        tieId: write.tieId,
        body: { by: 'rule', write },
        cause: d.reason,
        title: d.title,
        state: 'open',
      })
      // Another write for this item is on its way; it is planned again when that is confirmed.
      if (added) connections.add(home.connection_id)
    }
  }
  return [...connections]
}
