import { holidaysIn } from '../data/repositories/chosen-items.ts'
import { addDays, dayAt, type PersonSettings, settingsOfPerson, type WorkingHours } from '@loom/core'
import { sharingOf } from '../access/sight.ts'
import type { Sql } from '../data/database.ts'
import { membersWithSettings } from '../data/repositories/members.ts'
import { parsed } from '../data/json.ts'

/** The members of a workspace as rows of the Cloth: whose hours are when, in which zone. */

export interface PersonRow {
  id: string
  name: string
  zone: string
  hours: WorkingHours
}

/** `byItems`: some have their days off in a calendar, so that what they are changes with what is in it. */
export async function peopleOf(
  sql: Sql,
  workspaceId: string,
): Promise<{ people: PersonRow[]; byItems: boolean }> {
  const rows = await membersWithSettings(sql, { workspaceId })
  const sharing = await sharingOf(sql, workspaceId)
  const people: PersonRow[] = []
  let byItems = false
  for (const { id, role, name, zone, settings } of rows) {
    const set = settingsOfPerson(parsed(settings))
    // Of a calendar that they do not see themselves, nobody is told the days by way of theirs.
    const isSeen = set.holidays !== null && sharing.sightOf({ id, role }).sees(set.holidays, 'title')
    const off = [...set.hours.off, ...(isSeen ? await holidaysOf(sql, workspaceId, set, zone) : [])]
    people.push({ id, name, zone, hours: { ...set.hours, off, zone } })
    byItems ||= set.holidays !== null
  }
  return { people, byItems }
}

/** All-day events of the calendar that a member chose for days off. */
async function holidaysOf(
  sql: Sql,
  workspaceId: string,
  set: PersonSettings,
  zone: string,
): Promise<string[]> {
  if (!set.holidays) return []
  const rows = await holidaysIn(sql, { workspaceId, id: set.holidays })
  return rows.flatMap(({ start_ms, end_ms }) => {
    const first = dayAt(start_ms, zone)
    const days = Math.max(1, Math.round((end_ms - start_ms) / 86_400_000))
    return Array.from({ length: Math.min(days, 60) }, (_, i) => addDays(first, i))
  })
}
