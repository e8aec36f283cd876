import { addDays, dayAt, type PersonSettings, settingsOfPerson, type WorkingHours } from '@loom/core'
import type { Sql } from '../data/database.ts'

/** The members of a workspace as rows of the Cloth: whose hours are when, in which zone. */

export interface PersonRow {
  id: string
  name: string
  zone: string
  hours: WorkingHours
}

export async function peopleOf(sql: Sql, workspaceId: string): Promise<PersonRow[]> {
  const rows = await sql.rows<{ id: string; name: string; zone: string; settings: string }>(
    'SELECT id, name, zone, settings FROM members WHERE workspace_id = :workspaceId ORDER BY name',
    { workspaceId },
  )
  const found: PersonRow[] = []
  for (const { id, name, zone, settings } of rows) {
    const set = settingsOfPerson(JSON.parse(settings))
    const off = [...set.hours.off, ...(await holidaysOf(sql, workspaceId, set, zone))]
    found.push({ id, name, zone, hours: { ...set.hours, off, zone } })
  }
  return found
}

/** All-day events of the calendar that somebody named as the one their days off stand in. */
async function holidaysOf(
  sql: Sql,
  workspaceId: string,
  set: PersonSettings,
  zone: string,
): Promise<string[]> {
  if (!set.holidays) return []
  const rows = await sql.rows<{ start_ms: number; end_ms: number }>(
    `SELECT m.start_ms, m.end_ms FROM mirrors m
     WHERE m.workspace_id = :workspaceId AND m.collection_id = :id AND m.presence = 'present' AND m.recurring = 0
       AND JSON_VALUE(m.item, '$.time.anchor.kind') = 'date' ORDER BY m.start_ms LIMIT 500`,
    { workspaceId, id: set.holidays },
  )
  return rows.flatMap(({ start_ms, end_ms }) => {
    const first = dayAt(start_ms, zone)
    const days = Math.max(1, Math.round((end_ms - start_ms) / 86_400_000))
    return Array.from({ length: Math.min(days, 60) }, (_, i) => addDays(first, i))
  })
}
