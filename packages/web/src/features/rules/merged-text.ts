/**
 * Proposes a merge of a text that two people changed, line by line (word by word in a single line). Changes of
 * either side are taken; where both changed the same place, both stand one after the other for the person to
 * choose.
 */
export function mergedText(base: string, a: string, b: string): string {
  if (a === b || b === base) return a
  if (a === base) return b
  const lines = [base, a, b].some(t => t.includes('\n'))
  const split = (text: string): string[] => (lines ? text.split('\n') : text.split(/(?<=\s)/))
  const join = (parts: string[]): string => (lines ? parts.join('\n') : parts.join(''))
  const [was, mine, theirs] = [split(base), split(a), split(b)]
  const out: string[] = []
  const [toMine, toTheirs] = [pairs(was, mine), pairs(was, theirs)]
  let [i, j] = [0, 0]
  for (let k = 0; k <= was.length; k++) {
    const [x, y] = [toMine.get(k), toTheirs.get(k)]
    const end = k === was.length
    if (!end && (x === undefined || y === undefined)) continue
    const stretch = [mine.slice(i, end ? mine.length : x), theirs.slice(j, end ? theirs.length : y)]
    const before = was.slice(lastCommon(toMine, toTheirs, k), k)
    out.push(...settle(before, stretch[0] ?? [], stretch[1] ?? []))
    if (end) break
    out.push(was[k] ?? '')
    i = (x ?? 0) + 1
    j = (y ?? 0) + 1
  }
  return join(out)
}

/** The part after the last one that both kept before `k`. */
function lastCommon(x: Map<number, number>, y: Map<number, number>, k: number): number {
  for (let i = k - 1; i >= 0; i--) if (x.has(i) && y.has(i)) return i + 1
  return 0
}

function settle(before: string[], mine: string[], theirs: string[]): string[] {
  const same = (p: string[], q: string[]): boolean => p.length === q.length && p.every((t, i) => t === q[i])
  if (same(mine, theirs) || same(theirs, before)) return mine
  return same(mine, before) ? theirs : [...mine, ...theirs]
}

/** Which part of `was` stands where in `now`: a longest common subsequence. */
function pairs(was: string[], now: string[]): Map<number, number> {
  const length = Array.from({ length: was.length + 1 }, () => new Uint16Array(now.length + 1))
  for (let i = was.length - 1; i >= 0; i--)
    for (let j = now.length - 1; j >= 0; j--) {
      const [row, below] = [length[i], length[i + 1]]
      if (!row || !below) continue
      row[j] = was[i] === now[j] ? (below[j + 1] ?? 0) + 1 : Math.max(below[j] ?? 0, row[j + 1] ?? 0)
    }
  const found = new Map<number, number>()
  let [i, j] = [0, 0]
  while (i < was.length && j < now.length) {
    if (was[i] === now[j]) found.set(i++, j++)
    else if ((length[i + 1]?.[j] ?? 0) >= (length[i]?.[j + 1] ?? 0)) i++
    else j++
  }
  return found
}
