/**
 * How many entries each row shows, so that all rows fit where they can: rows that need little leave their room to those
 * that need more. None shows fewer than `least`, if it has so many.
 * @param needs how many entries each row has on its fullest day
 * @param room for so many entries in all
 */
export function fittingLines(needs: readonly number[], room: number, least: number): number[] {
  const given = needs.map(n => Math.min(n, least))
  let left = room - given.reduce((sum, n) => sum + n, 0)
  // One more for each of the rows that still need one, as long as there is a line for each of them.
  for (;;) {
    const wanting = needs.flatMap((n, i) => (n > (given[i] ?? 0) ? [i] : []))
    if (wanting.length === 0 || left < wanting.length) return given
    for (const i of wanting) given[i] = (given[i] ?? 0) + 1
    left -= wanting.length
  }
}
