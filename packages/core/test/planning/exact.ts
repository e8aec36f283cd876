import highsLoader from 'highs'
import type { Demand, Instance, Placement, Span } from '../../src/planning/instance.ts'

/** The cheapest draft there is, by whole-number programming: slow, and by other means than the planner’s. */

interface Piece extends Span {
  name: string
  demand: Demand
  cost: number
}

let loaded: ReturnType<typeof highsLoader> | null = null

/** @returns null where no certificate was found within so many seconds */
export async function optimumOf(
  instance: Instance,
  seconds = 20,
): Promise<{ price: number; placement: Placement } | null> {
  const highs = await (loaded ??= highsLoader({}))
  const { text, pieces, base } = programOf(instance)
  if (pieces.length === 0) return { price: base, placement: new Map(instance.demands.map(d => [d.id, []])) }
  const found = highs.solve(text, { time_limit: seconds, mip_rel_gap: 0, mip_abs_gap: 0.5 })
  if (found.Status !== 'Optimal') return null
  const columns = found.Columns as Record<string, { Primal: number }>
  const placement = new Map<string, Span[]>(instance.demands.map(d => [d.id, []]))
  for (const p of pieces)
    if ((columns[p.name]?.Primal ?? 0) > 0.5) placement.get(p.demand.id)?.push({ from: p.from, to: p.to })
  return { price: Math.round(found.ObjectiveValue) + base, placement }
}

function programOf(instance: Instance): { text: string; pieces: Piece[]; base: number } {
  const { demands, days, stretches, breaks, horizon } = instance
  const free = new Array<number>(horizon + 1).fill(0)
  for (let u = 0; u < horizon; u++)
    free[u + 1] = (free[u] ?? 0) + (stretches.some(s => s.from <= u && u < s.to) ? 1 : 0)
  const all = free[horizon] ?? 0
  const dayOf = (u: number): number => days.findIndex(d => d.from <= u && u < d.to)
  const stretchOf = (u: number): number => stretches.findIndex(s => s.from <= u && u < s.to)
  const busy = new Set(
    instance.busy.flatMap(b => Array.from({ length: b.to - b.from }, (_, n) => b.from + n)),
  )
  let base = 0
  const pieces: Piece[] = []
  for (const [i, d] of demands.entries()) {
    base += d.weight * (100 * d.need + 150 + (d.deadline === null ? 0 : 1000 * d.need))
    base += instance.moved * d.planned.length
    const least = d.division.kind === 'whole' ? d.need : Math.min(d.division.least, d.need)
    const extraAt = (u: number): number | null =>
      busy.has(u) ? null : (d.admitted.find(a => a.from <= u && u < a.to)?.extra ?? null)
    for (const s of stretches)
      for (let from = Math.max(s.from, d.earliest); from < s.to; from++) {
        let extra = 0
        for (let to = from + 1; to <= Math.min(s.to, from + d.need); to++) {
          const more = extraAt(to - 1)
          if (more === null) break
          extra += more
          if (to - from < least) continue
          const length = to - from
          const inTime = d.deadline === null ? 0 : Math.max(0, Math.min(to, d.deadline) - from)
          const waited = (free[from] ?? 0) - (free[d.earliest] ?? 0)
          const isSame = d.planned.some(p => p.from === from && p.to === to)
          const kept =
            d.division.kind === 'shrink'
              ? 100 * d.need - 50 * (d.need - length) + 150
              : 100 * length + (d.division.kind === 'whole' ? 150 : 0)
          const cost =
            25 +
            Math.floor((30 * d.weight * length * waited) / all) +
            extra -
            d.weight * (kept + 1000 * inTime) -
            (isSame ? instance.moved : 0)
          pieces.push({ name: `x${i}_${from}_${to}`, demand: d, from, to, cost })
        }
      }
  }
  const rows: string[] = []
  const sum = (of: readonly (readonly [number, string])[]): string =>
    of.map(([n, name]) => `${n < 0 ? '-' : '+'} ${Math.abs(n)} ${name}`).join(' ')
  const row = (of: readonly (readonly [number, string])[], is: string): void => {
    if (of.length > 0) rows.push(` c${rows.length}: ${sum(of)} ${is}`)
  }
  const ones = (of: readonly Piece[]) => of.map(p => [1, p.name] as const)
  const lengths = (of: readonly Piece[]) => of.map(p => [p.to - p.from, p.name] as const)
  const objective: [number, string][] = pieces.map(p => [p.cost, p.name])
  const whole: string[] = pieces.map(p => p.name)
  const covering = (u: number): Piece[] => pieces.filter(p => p.from <= u && u < p.to)
  for (let u = 0; u < horizon; u++) row(ones(covering(u)), '<= 1')
  for (const [n, day] of days.entries()) {
    const here = pieces.filter(p => dayOf(p.from) === n)
    row(
      here.map(p => [Math.max(0, Math.min(p.to, day.hours.to) - Math.max(p.from, day.hours.from)), p.name]),
      `<= ${day.capacity}`,
    )
    for (const d of demands) row(ones(here.filter(p => p.demand === d)), '<= 1')
    for (const group of new Set(demands.flatMap(d => d.group ?? [])))
      row(ones(here.filter(p => p.demand.group === group)), '<= 1')
  }
  for (const [i, d] of demands.entries()) {
    const own = pieces.filter(p => p.demand === d)
    if (own.length === 0) continue
    if (d.division.kind !== 'split') row(ones(own), '<= 1')
    else {
      row(lengths(own), `<= ${d.need}`)
      row([...lengths(own), [-d.need, `z${i}`]], '>= 0')
      objective.push([-150 * d.weight, `z${i}`])
      whole.push(`z${i}`)
    }
    for (const { id, gap } of d.after) {
      const leader = demands.find(x => x.id === id)
      if (!leader) continue
      for (const from of new Set(own.map(p => p.from))) {
        const first = pieces.filter(p => p.demand === leader && p.to + gap <= from)
        const starting = own.filter(p => p.from === from)
        if (leader.division.kind === 'shrink')
          row([...ones(first), ...starting.map(p => [-1, p.name] as const)], '>= 0')
        else row([...lengths(first), ...starting.map(p => [-leader.need, p.name] as const)], '>= 0')
      }
      // Nor any piece of it later: of what is complete, all is before.
      const lasts = pieces.filter(p => p.demand === leader)
      for (const p of own) for (const q of lasts) if (q.to + gap > p.from) row(ones([p, q]), '<= 1')
    }
  }
  for (const [r, s] of stretches.entries())
    for (const category of new Set(demands.map(d => d.category))) {
      const name = `y${r}_${category}`
      const here = pieces.filter(p => p.demand.category === category && stretchOf(p.from) === r)
      if (here.length === 0) continue
      objective.push([15, name])
      whole.push(name)
      for (let u = s.from; u < s.to; u++)
        row([...ones(here.filter(p => p.from <= u && u < p.to)), [-1, name]], '<= 0')
    }
  if (breaks)
    for (let u = 0; u + breaks.run < horizon; u++) {
      const units = Array.from({ length: breaks.run + 1 }, (_, n) => u + n)
      const taken = units.filter(x => busy.has(x)).length
      const some = new Map<string, number>()
      for (const x of units) for (const p of covering(x)) some.set(p.name, (some.get(p.name) ?? 0) + 1)
      if (taken <= breaks.run)
        row(
          [...some].map(([name, n]) => [n, name]),
          `<= ${breaks.run - taken}`,
        )
    }
  const text = [
    'Minimize',
    ` obj: ${sum(objective)}`,
    'Subject To',
    ...rows,
    'Binary',
    ` ${whole.join(' ')}`,
    'End',
  ]
  return { text: text.join('\n'), pieces, base }
}
