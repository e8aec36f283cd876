import { expect } from 'chai'
import { Database } from '../src/data/database.ts'
import { migrate } from '../src/data/migrate.ts'
import { connectionById } from '../src/data/repositories/connections.ts'
import { planAnew, ruleById, workspacesToPlan } from '../src/data/repositories/rules.ts'
import { freshDatabase } from './support/world.ts'

/** What changes often stands in tables of its own, which nothing refers to. */
describe('what changes often', () => {
  let db: Database
  let drop: () => Promise<void>
  before(async () => {
    const fresh = await freshDatabase()
    drop = fresh.drop
    db = new Database(fresh.url)
  })
  after(async () => {
    await db.close()
    await drop()
  })

  it('is taken over from the tables it stood in before', async () => {
    await migrate(db, '0015-summary-trouble')
    for (const statement of [
      `INSERT INTO workspaces (id, name, zone, change_seq) VALUES ('w', 'Garden', 'UTC', 77)`,
      `INSERT INTO connections (id, workspace_id, kind, name, address, credentials, account_name, next_look_at,
         look_every_ms, last_ok_at) VALUES ('c', 'w', 'caldav', 'C', '', '', '', 5000, 3000, 1000)`,
      `INSERT INTO collections (id, workspace_id, connection_id, remote_id, name, dye, item_kind, writable, takes_part)
       VALUES ('a', 'w', 'c', 'a', 'A', 'moss', 'task', 1, 1), ('b', 'w', 'c', 'b', 'B', 'moss', 'event', 1, 1)`,
      `INSERT INTO rules (id, workspace_id, a_collection, b_collection, settings, state, version, enabled_at, notices,
         planned_seq, last_pass_at, anew_at, trouble, failures, next_pass_at)
       VALUES ('r', 'w', 'a', 'b', '{}', 'on', 3, 0, '[]', 70, 900, 800, 'why', 2, 600)`,
    ])
      await db.run(statement)
    await migrate(db)
    expect(await connectionById(db, { id: 'c' })).to.include({
      next_look_at: 5000,
      look_every_ms: 3000,
      last_ok_at: 1000,
      workspace_zone: 'UTC',
    })
    expect(await ruleById(db, { id: 'r' })).to.include({
      version: 3,
      planned_seq: 70,
      last_pass_at: 900,
      anew_at: 800,
      trouble: 'why',
      failures: 2,
      next_pass_at: 600,
    })
    expect(await workspacesToPlan(db, { now: 800, wall: 600 })).to.deep.equal([{ id: 'w' }])
    await planAnew(db, { rules: ['r'] })
    expect(await ruleById(db, { id: 'r' })).to.include({ planned_seq: -1, next_pass_at: 0 })
    await db.run(`DELETE FROM connections WHERE id = 'c'`)
    expect(await db.rows('SELECT 1 FROM look_times UNION ALL SELECT 1 FROM rule_progress')).to.deep.equal([])
  })

  it('is referred to by no table, so that whoever adds rows elsewhere does not lock it', async () => {
    const referred = await db.rows<{ name: string }>(
      `SELECT DISTINCT referenced_table_name AS name FROM information_schema.referential_constraints
       WHERE constraint_schema = DATABASE()`,
    )
    for (const name of ['change_counters', 'look_times', 'rule_progress', 'leases', 'changes'])
      expect(referred.map(r => r.name)).not.to.include(name)
  })
})
