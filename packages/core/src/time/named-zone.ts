import { findIana } from 'windows-iana'
import { isKnownZone } from './when.ts'

const named = new Map<string, string | null>()
const MOST_NAMES = 1_000

/**
 * The IANA zone of a name that a file uses: the name itself, or what it stands for among the names of Windows (CLDR's
 * table). Null where nothing is known of it.
 */
export function zoneNamed(name: string): string | null {
  if (isKnownZone(name)) return name
  const known = named.get(name)
  if (known !== undefined) return known
  const zone = findIana(name).find(isKnownZone) ?? null
  if (named.size >= MOST_NAMES) named.clear()
  named.set(name, zone)
  return zone
}
