import { findIana } from 'windows-iana'
import { isKnownZone } from './when.ts'

const named = new Map<string, string | null>()
const MOST_NAMES = 1_000

/**
 * The IANA zone for a name used in a file: the name itself, or its equivalent among Windows names (CLDR). Null if
 * unknown.
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
