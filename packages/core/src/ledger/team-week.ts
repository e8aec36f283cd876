/**
 * What may be told of a team's week: nobody's own time can be worked out from it, by whoever knows their own. The same
 * is told to everybody, once and for all.
 */

/** Minutes of one member under each name. */
export type MemberWeek = Readonly<Record<string, number>>

const LEAST_MEMBERS = 5
/** Beside whoever looks. */
const LEAST_OTHERS = 3
const MOST_SHARE = 0.6
export const ALL_ELSE = 'Everything else'

/**
 * Minutes by name; null where nothing may be told. Names that would tell too much are told together. As each figure
 * is safe, so is every sum of several, and with it what is left of the whole without some of them.
 */
export function teamWeek(members: readonly MemberWeek[]): Record<string, number> | null {
  if (members.length < LEAST_MEMBERS) return null
  const names = [...new Set(members.flatMap(m => Object.keys(m)))].sort()
  const cells = names.map(name => ({ name, by: members.map(m => m[name] ?? 0) })).filter(c => sum(c.by) > 0)
  const open = cells.filter(c => isSafe(c.by)).sort((x, y) => sum(x.by) - sum(y.by))
  const hidden = cells.filter(c => !isSafe(c.by)).map(c => c.by)
  let rest = added(hidden, members.length)
  // What cannot be told alone is told together with the smallest that could be.
  while (sum(rest) > 0 && !isSafe(rest)) {
    const next = open.shift()
    if (!next) return null
    rest = added([rest, next.by], members.length)
  }
  if (open.length === 0 && sum(rest) === 0) return null
  const told = Object.fromEntries(open.map(c => [c.name, sum(c.by)]))
  return sum(rest) > 0 ? { ...told, [ALL_ELSE]: sum(rest) } : told
}

/** Whoever of them looks: enough others have a part in it, and none of these too large a one. */
export function isSafe(by: readonly number[]): boolean {
  return [...by.keys()].every(viewer => {
    const others = by.filter((minutes, at) => at !== viewer && minutes > 0)
    return others.length >= LEAST_OTHERS && Math.max(...others) <= MOST_SHARE * sum(others)
  })
}

const sum = (all: readonly number[]): number => all.reduce((x, y) => x + y, 0)
const added = (cells: readonly (readonly number[])[], length: number): number[] =>
  Array.from({ length }, (_, at) => sum(cells.map(c => c[at] ?? 0)))
