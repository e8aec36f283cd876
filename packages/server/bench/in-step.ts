import { lensesOf } from '@loom/core'
import type { Database } from '../src/data/database.ts'
import { type MirrorRow, mirrorOf, MIRRORS } from '../src/data/mirrors.ts'
import { ruleOf, type RuleRow } from '../src/sync/rules.ts'

/** Ties the items of two collections one to one, as if a rule had done it long ago: nothing is left to write. */
export async function tieAll(db: Database, ruleId: string): Promise<number> {
  const row = await db.one<RuleRow>('SELECT * FROM rules WHERE id = :ruleId', { ruleId })
  if (!row) throw new Error('no rule')
  const rule = await ruleOf(db, row)
  const of = async (collection: string) =>
    (
      await db.rows<MirrorRow>(
        `${MIRRORS} WHERE m.collection_id = :collection ORDER BY LENGTH(m.remote_id), m.remote_id`,
        { collection },
      )
    ).map(mirrorOf)
  const [tasks, events] = [await of(row.a_collection), await of(row.b_collection)]
  const rows = tasks.flatMap((a, i) => {
    const b = events[i]
    if (!b) return []
    const base = Object.fromEntries(
      lensesOf(rule).map(l => [
        l.field,
        { a: l.read('a', a.item, undefined), b: l.read('b', b.item, undefined) },
      ]),
    )
    return [[`tie-${i}`, row.workspace_id, row.id, row.version, a.id, b.id, JSON.stringify(base), 0]]
  })
  for (let i = 0; i < rows.length; i += 500)
    await db.insert(
      'INSERT INTO ties (id, workspace_id, rule_id, rule_version, a_mirror, b_mirror, base, made_at) VALUES :rows',
      { rows: rows.slice(i, i + 500) },
    )
  return rows.length
}
