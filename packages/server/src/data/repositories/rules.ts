import type { RuleColumns, RuleProgressColumns } from '../models/rules.ts'
import { changed, plain } from '../models/rows.ts'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Rules, their versions, and how far each was planned. */

export type RuleRow = RuleColumns & Omit<RuleProgressColumns, 'rule_id'>

const PROGRESS = 'p.planned_seq, p.last_pass_at, p.anew_at, p.trouble, p.failures, p.next_pass_at'

const RULES = `SELECT r.*, ${PROGRESS} FROM rules r JOIN rule_progress p ON p.rule_id = r.id`

/** Time that goes by brings items within a rule's reach, and into and out of clauses about today. */
export const ANEW_EVERY_MS = 3 * 3_600_000

/**
 * Requests a full plan of a rule. Each request sets a new number, so that a pass that began earlier does not count
 * as its answer.
 */
const PLAN_ANEW = 'p.next_pass_at = 0, p.planned_seq = LEAST(p.planned_seq, 0) - 1'

const WITH_PROGRESS = 'UPDATE rules r JOIN rule_progress p ON p.rule_id = r.id'

export const OWN_TASKS = 'tasks'

/** Blocks and batches that stay in our own layer, so that nobody's calendar is filled with them. */
export const OWN_BLOCKS = 'blocks'

export const RULE_LIST = `SELECT r.*, ${PROGRESS}, CONCAT(an.name, ' · ', a.name) AS a_name, CONCAT(bn.name, ' · ', b.name) AS b_name,
    CONCAT(a.name, ' ⇄ ', b.name) AS plain_name, a.dye AS a_dye, b.dye AS b_dye, a.item_kind AS a_kind, b.item_kind AS b_kind,
    (SELECT COUNT(*) FROM ties t WHERE t.rule_id = r.id AND t.released IS NULL) AS ties,
    (SELECT COUNT(*) FROM intents i WHERE i.rule_id = r.id AND i.state = 'open' AND i.asks_since IS NULL) AS waiting,
    (SELECT COUNT(*) FROM conflicts c WHERE c.rule_id = r.id AND c.answer IS NULL) AS conflicts,
    (SELECT COUNT(*) FROM intents q WHERE q.rule_id = r.id AND q.state = 'open' AND q.asks_since IS NOT NULL) AS unconfirmed,
    (SELECT COUNT(*) FROM braked k WHERE k.rule_id = r.id AND k.answer IS NULL) AS braked
  FROM rules r JOIN rule_progress p ON p.rule_id = r.id JOIN collections a ON a.id = r.a_collection
    JOIN collections b ON b.id = r.b_collection JOIN connections an ON an.id = a.connection_id JOIN connections bn ON bn.id = b.connection_id`

export type ListRow = RuleRow & {
  a_name: string
  b_name: string
  a_dye: string
  b_dye: string
  a_kind: 'task' | 'event'
  b_kind: 'task' | 'event'
  plain_name: string
  ties: number
  waiting: number
  conflicts: number
  unconfirmed: number
  braked: number
}

export const RULE_NAME = `IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name))`

export const settingsOfVersion = (
  sql: Sql,
  p: { id: string; version: number },
): Promise<{ settings: Json<unknown> } | null> =>
  plain(
    sql.models.ruleVersions.findOne({
      attributes: ['settings'],
      where: { rule_id: p.id, version: p.version },
      ...sql.within,
    }),
  )

export const ruleById = (sql: Sql, p: { id: string | null }): Promise<RuleRow | null> =>
  sql.one(`${RULES} WHERE r.id = :id`, p)

export const anyOtherRule = (sql: Sql, p: { rule: string; home: string }): Promise<unknown> =>
  sql.one(
    `SELECT r.id FROM rules r WHERE r.id <> :rule AND r.workspace_id =
       (SELECT workspace_id FROM collections WHERE id = :home) LIMIT 1`,
    p,
  )

export const rulesThatAreOn = (sql: Sql, p: { workspaceId: string }): Promise<RuleRow[]> =>
  sql.rows(
    `${RULES} WHERE r.workspace_id = :workspaceId AND r.state = 'on' ORDER BY r.place, r.enabled_at, r.id`,
    p,
  )

export const setRuleTrouble = (sql: Sql, p: { id: string; trouble: string; next: number }): Promise<number> =>
  sql.run(
    `UPDATE rule_progress SET trouble = :trouble, failures = failures + 1, next_pass_at = :next WHERE rule_id = :id`,
    p,
  )

export const setRuleWell = (sql: Sql, p: { id: string }): Promise<number> =>
  changed(
    sql.models.ruleProgress.update(
      { trouble: null, failures: 0, next_pass_at: 0 },
      { where: { rule_id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const markPlannedAnew = (sql: Sql, p: { id: string; now: number }): Promise<number> =>
  changed(
    sql.models.ruleProgress.update(
      { anew_at: p.now },
      { where: { rule_id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const advancePlannedSeq = (
  sql: Sql,
  p: { id: string; until: number; now: number; was: number; anew: boolean },
): Promise<number> =>
  sql.run(
    `UPDATE rule_progress SET planned_seq = :until, last_pass_at = :now, anew_at = IF(:anew, :now, anew_at)
     WHERE rule_id = :id AND planned_seq = :was`,
    p,
  )

export const setNotices = (sql: Sql, p: { id: string; text: Json<string[]> }): Promise<number> =>
  changed(
    sql.models.rules.update(
      { notices: p.text },
      { where: { id: p.id }, transaction: sql.within.transaction },
    ),
  )

export const workspacesToPlan = (sql: Sql, p: { now: number; wall: number }): Promise<{ id: string }[]> =>
  sql.rows(
    `SELECT DISTINCT r.workspace_id AS id FROM rules r JOIN rule_progress p ON p.rule_id = r.id
       LEFT JOIN change_counters w ON w.workspace_id = r.workspace_id
     WHERE r.state = 'on' AND p.next_pass_at <= :wall
       AND (p.planned_seq < IFNULL(w.change_seq, 0) OR ABS(:now - p.anew_at) > ${ANEW_EVERY_MS})`,
    p,
  )

export const pauseRule = (sql: Sql, p: { rule: string }): Promise<number> =>
  changed(
    sql.models.rules.update(
      { state: 'paused' },
      { where: { id: p.rule }, transaction: sql.within.transaction },
    ),
  )

export const resumeRule = (sql: Sql, p: { rule: string }): Promise<number> =>
  sql.run(`${WITH_PROGRESS} SET r.state = 'on', ${PLAN_ANEW} WHERE r.id = :rule`, p)

export const ownRuleOf = (sql: Sql, p: { workspaceId: string }): Promise<{ id: string } | null> =>
  plain(
    sql.models.rules.findOne({
      attributes: ['id'],
      where: { workspace_id: p.workspaceId, own: 1 },
      ...sql.within,
    }),
  )

export const addOwnRule = async (
  sql: Sql,
  p: { id: string; workspaceId: string; settings: Json<unknown>; now: number },
): Promise<void> => {
  await sql.insert(
    `INSERT IGNORE INTO rules (id, workspace_id, name, a_collection, b_collection, settings, state, version,
       enabled_at, new_since, notices, own)
     SELECT :id, :workspaceId, 'Work blocks', a.id, b.id, :settings, 'on', 1, :now, :now, '[]', 1
     FROM collections a JOIN collections b ON b.connection_id = a.connection_id
     WHERE a.workspace_id = :workspaceId AND a.remote_id = '${OWN_TASKS}' AND b.remote_id = '${OWN_BLOCKS}'
       AND a.connection_id IN (SELECT id FROM connections WHERE workspace_id = :workspaceId AND kind = 'own')`,
    p,
  )
  await sql.insert('INSERT IGNORE INTO rule_progress (rule_id) SELECT id FROM rules WHERE id = :id', {
    id: p.id,
  })
}

export const addFirstVersion = (sql: Sql, p: { id: string }): Promise<void> =>
  sql.insert(
    `INSERT IGNORE INTO rule_versions (rule_id, version, workspace_id, settings, saved_at)
     SELECT id, version, workspace_id, settings, enabled_at FROM rules WHERE id = :id`,
    p,
  )

export const ruleWithEventsFor = (
  sql: Sql,
  p: { task: string },
): Promise<{ id: string; version: number } | null> =>
  sql.one(
    `SELECT r.id, r.version FROM ties t JOIN rules r ON r.id = t.rule_id JOIN mirrors e ON e.id = t.b_mirror
           WHERE t.a_mirror = :task AND t.role = 'mirror' AND t.released IS NULL AND e.kind = 'event' LIMIT 1`,
    p,
  )

export const ruleOfItem = (
  sql: Sql,
  p: { id: string },
): Promise<{ id: string; name: string; tie: string } | null> =>
  sql.one(
    `SELECT r.id, IFNULL(r.name, CONCAT(a.name, ' ⇄ ', b.name)) AS name, t.id AS tie
     FROM ties t JOIN rules r ON r.id = t.rule_id
       JOIN collections a ON a.id = r.a_collection JOIN collections b ON b.id = r.b_collection
     WHERE (t.a_mirror = :id OR t.b_mirror = :id) AND t.role = 'mirror' AND t.released IS NULL LIMIT 1`,
    p,
  )

export const ruleInWorkspace = (sql: Sql, p: { id: string; workspaceId: string }): Promise<RuleRow | null> =>
  sql.one(`${RULES} WHERE r.id = :id AND r.workspace_id = :workspaceId`, p)

export const versionsOf = (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<
  {
    version: number
    settings: Json<unknown>
    savedAt: number
    who: string | null
  }[]
> =>
  sql.rows(
    `SELECT v.version, v.settings, v.saved_at AS savedAt, m.name AS who FROM rule_versions v
         LEFT JOIN members m ON m.id = v.member_id
         WHERE v.rule_id = :id AND v.workspace_id = :workspaceId ORDER BY v.version DESC LIMIT 200`,
    p,
  )

export const ruleBetween = (
  sql: Sql,
  p: { a: string; b: string; self: string },
): Promise<{ id: string } | null> =>
  sql.one(
    `SELECT id FROM rules WHERE ((a_collection = :a AND b_collection = :b) OR (a_collection = :b AND b_collection = :a))
       AND id <> :self LIMIT 1`,
    p,
  )

export const otherRules = (sql: Sql, p: { workspaceId: string; self: string }): Promise<RuleRow[]> =>
  sql.rows(`${RULES} WHERE r.workspace_id = :workspaceId AND r.id <> :self AND r.own = 0`, p)

export const addVersion = (
  sql: Sql,
  p: {
    ruleId: string
    version: number
    workspaceId: string
    settings: Json<unknown>
    now: number
    memberId: string
  },
): Promise<void> =>
  sql.models.ruleVersions
    .create(
      {
        rule_id: p.ruleId,
        version: p.version,
        workspace_id: p.workspaceId,
        settings: p.settings,
        saved_at: p.now,
        member_id: p.memberId,
      },
      sql.within,
    )
    .then(() => undefined)

export const ruleToChange = (sql: Sql, p: { id: string; workspaceId: string }): Promise<RuleRow | null> =>
  sql.one(`${RULES} WHERE r.id = :id AND r.workspace_id = :workspaceId AND r.own = 0`, p)

export const rulesOverview = (sql: Sql, p: { workspaceId: string }): Promise<ListRow[]> =>
  sql.rows(`${RULE_LIST} WHERE r.workspace_id = :workspaceId AND r.own = 0 ORDER BY r.place, r.enabled_at`, p)

export const changeRule = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    settings: Json<unknown>
    name: string | null
    a: string
    b: string
    newSince: number
  },
): Promise<number> =>
  sql.run(
    `${WITH_PROGRESS} SET r.settings = :settings, r.name = :name, r.b_collection = :b, r.version = r.version + 1,
       r.new_since = :newSince,
       ${PLAN_ANEW}
     WHERE r.id = :id AND r.workspace_id = :workspaceId AND r.a_collection = :a`,
    p,
  )

export const addRule = async (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    name: string | null
    a: string
    b: string
    settings: Json<unknown>
    now: number
  },
): Promise<void> => {
  await sql.insert(
    `INSERT INTO rules (id, workspace_id, name, a_collection, b_collection, settings, state, version, enabled_at, new_since,
               notices, place)
             SELECT :id, :workspaceId, :name, :a, :b, :settings, 'on', 1, :now, :now, '[]',
               (SELECT IFNULL(MAX(o.place), 0) + 1 FROM rules o WHERE o.workspace_id = :workspaceId)`,
    p,
  )
  await sql.insert('INSERT INTO rule_progress (rule_id) VALUES (:id)', { id: p.id })
}

export const versionOfRule = (sql: Sql, p: { id: string }): Promise<{ version: number } | null> =>
  plain(sql.models.rules.findOne({ attributes: ['version'], where: { id: p.id }, ...sql.within }))

export const setPlace = (sql: Sql, p: { place: number; id: string; workspaceId: string }): Promise<number> =>
  changed(
    sql.models.rules.update(
      { place: p.place },
      { where: { id: p.id, workspace_id: p.workspaceId }, transaction: sql.within.transaction },
    ),
  )

export const setRuleState = (sql: Sql, p: { id: string; state: string }): Promise<number> =>
  sql.run(`${WITH_PROGRESS} SET r.state = :state, ${PLAN_ANEW} WHERE r.id = :id`, p)

export const deleteRule = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.models.rules.destroy({ where: { id: p.id }, transaction: sql.within.transaction })

export const planAnew = (sql: Sql, p: { rules: readonly string[] }): Promise<number> =>
  sql.run(`UPDATE rule_progress p SET ${PLAN_ANEW} WHERE p.rule_id IN (:rules)`, p)

export const rulesWithPlainNames = (
  sql: Sql,
  p: { workspaceId: string },
): Promise<(RuleRow & { plain: string })[]> =>
  sql.rows(
    `SELECT r.*, ${PROGRESS}, CONCAT(a.name, ' ⇄ ', b.name) AS plain FROM rules r
       JOIN rule_progress p ON p.rule_id = r.id JOIN collections a ON a.id = r.a_collection
       JOIN collections b ON b.id = r.b_collection WHERE r.workspace_id = :workspaceId ORDER BY r.place, r.enabled_at`,
    p,
  )

export const ruleNames = (sql: Sql, p: { workspaceId: string }): Promise<{ id: string; name: string }[]> =>
  sql.rows(
    `SELECT r.id, ${RULE_NAME} AS name FROM rules r JOIN collections a ON a.id = r.a_collection
       JOIN collections b ON b.id = r.b_collection WHERE r.workspace_id = :workspaceId ORDER BY name`,
    p,
  )

export const nameOfRule = (
  sql: Sql,
  p: { id: string; workspaceId: string },
): Promise<{ name: string } | null> =>
  sql.one(
    `SELECT IFNULL(name, 'a rule') AS name FROM rules WHERE id = :id AND workspace_id = :workspaceId`,
    p,
  )

/** Nobody else changes it until the end of the commit. */
export const lockRule = (sql: Sql, p: { id: string; workspaceId: string }): Promise<RuleRow | null> =>
  sql.one(`${RULES} WHERE r.id = :id AND r.workspace_id = :workspaceId FOR UPDATE`, p)

/** What says nothing of how pairs are kept is no new version: nothing is planned anew for it. */
export async function putSettingsInPlace(
  sql: Sql,
  p: { id: string; version: number; settings: Json<unknown> },
): Promise<void> {
  await sql.run('UPDATE rules SET settings = :settings WHERE id = :id AND version = :version', p)
  await sql.run('UPDATE rule_versions SET settings = :settings WHERE rule_id = :id AND version = :version', p)
}
