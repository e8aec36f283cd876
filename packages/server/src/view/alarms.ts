import { alarmsOf, NotUnderstood } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { ORIGINALS_AT_ONCE, originalsOfMirrors } from '../data/repositories/originals.ts'

/** The alarms that events have in their calendars, by their ids. One that cannot be read has none. */
export async function alarmsIn(sql: Sql, ids: readonly string[]): Promise<Map<string, number[]>> {
  const found = new Map<string, number[]>()
  for (let from = 0; from < ids.length; from += ORIGINALS_AT_ONCE) {
    const part = ids.slice(from, from + ORIGINALS_AT_ONCE)
    for (const { mirror_id: id, original } of await originalsOfMirrors(sql, { part })) {
      const minutes = original.includes('BEGIN:VALARM') ? readAlarms(original) : []
      if (minutes.length > 0) found.set(id, minutes)
    }
  }
  return found
}

function readAlarms(original: string): number[] {
  try {
    return alarmsOf(original)
  } catch (error) {
    if (error instanceof NotUnderstood) return []
    throw error
  }
}
