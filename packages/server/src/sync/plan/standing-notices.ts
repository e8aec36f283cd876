import { unknownIn, describedWritable } from '../../data/repositories/sides.ts'
import { statusNames } from '@loom/core'
import type { Sql } from '../../data/database.ts'
import { capabilitiesIn } from '../rules/rules.ts'
import { notUnrolled } from '../rules/series-dates.ts'
import { parsed } from '../../data/json.ts'

/** What a rule over these lists and calendars has to say for as long as it is so, beside what a pass found. */
export async function standingNotices(sql: Sql, collections: readonly string[]): Promise<string[]> {
  const notices: string[] = []
  const rows = await unknownIn(sql, { ids: collections })
  for (const r of rows) {
    const unknown = statusNames(parsed(r.terms), parsed(r.unknown_statuses))
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

/** Notices about lists and calendars with which a rule can do less than usual. They are no errors. */
export async function weakerPromises(sql: Sql, collections: readonly string[]): Promise<string[]> {
  const services = await describedWritable(sql, { ids: collections })
  return services
    .filter(s => capabilitiesIn(s)?.preconditions === false)
    .map(
      s =>
        `${s.name} takes a change without checking whether the item is still as we saw it. We look first and send only the field that changed; if somebody changes that same field there in the moment between, their edit is lost.`,
    )
}
