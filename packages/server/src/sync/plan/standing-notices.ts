import { statusNames, type Terms } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { capabilitiesIn } from '../rules/rules.ts'
import { notUnrolled } from '../rules/series-dates.ts'

/** What a rule over these lists and calendars has to say for as long as it is so, beside what a pass found. */
export async function standingNotices(sql: Sql, collections: readonly string[]): Promise<string[]> {
  const notices: string[] = []
  const rows = await sql.rows<{ name: string; unknown_statuses: string; terms: string; problems: number }>(
    `SELECT c.name, c.unknown_statuses, c.terms, (SELECT COUNT(*) FROM problems p WHERE p.collection_id = c.id) AS problems
     FROM collections c WHERE c.id IN (:ids)`,
    { ids: collections },
  )
  for (const r of rows) {
    const unknown = statusNames(JSON.parse(r.terms) as Terms, JSON.parse(r.unknown_statuses) as string[])
    if (unknown.length > 0)
      notices.push(
        `${r.name} uses ${unknown.map(u => `“${u}”`).join(', ')}, which has no meaning here yet: it changes nothing until you say what it means, under Connections.`,
      )
    if (r.problems > 0)
      notices.push(
        `${r.problems === 1 ? 'One item' : `${r.problems} items`} of ${r.name} could not be understood and ${r.problems === 1 ? 'is' : 'are'} left alone. The reasons are under Connections.`,
      )
  }
  const often = await notUnrolled(sql, collections)
  if (often > 0)
    notices.push(
      `${often === 1 ? 'One series repeats' : `${often} series repeat`} too often to be paired date by date. ${often === 1 ? 'It is' : 'They are'} left alone.`,
    )
  return notices
}

/** Where a rule over these lists and calendars promises less than elsewhere: nothing is wrong, but it is so. */
export async function weakerPromises(sql: Sql, collections: readonly string[]): Promise<string[]> {
  const services = await sql.rows<{ name: string; kind: string; description: string | null }>(
    `SELECT DISTINCT n.name, n.kind, n.description FROM collections c JOIN connections n ON n.id = c.connection_id
     WHERE c.id IN (:ids) AND c.writable = 1 ORDER BY n.name`,
    { ids: collections },
  )
  return services
    .filter(s => capabilitiesIn(s)?.preconditions === false)
    .map(
      s =>
        `${s.name} takes a change without checking whether the item is still as we saw it. We look first and send only the field that changed; if somebody changes that same field there in the moment between, their edit is lost.`,
    )
}
