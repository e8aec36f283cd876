import { expect } from 'chai'
import type { Demand, Instance, Placement, Span } from '../../src/planning/instance.ts'

/**
 * What must hold of every draft, said unit by unit, without anything of the planner but its types; and what it costs.
 */

const unitsOf = (s: Span): number[] => Array.from({ length: s.to - s.from }, (_, n) => s.from + n)

export function mustHold(instance: Instance, placement: Placement): void {
  const holder = new Map<number, string>()
  const busy = new Set(instance.busy.flatMap(unitsOf))
  const starts = new Map<string, number[]>()
  const drafted = instance.days.map(() => 0)
  const dayOf = (unit: number): number => instance.days.findIndex(d => d.from <= unit && unit < d.to)
  expect([...placement.keys()].sort()).to.deep.equal(instance.demands.map(d => d.id).sort())
  for (const d of instance.demands) {
    const pieces = placement.get(d.id) ?? []
    const sum = pieces.flatMap(unitsOf).length
    if (sum === 0) expect(pieces).to.deep.equal([])
    if (d.division.kind === 'whole') expect(sum, `${d.id} whole or not at all`).to.be.oneOf([0, d.need])
    if (d.division.kind === 'split')
      for (const p of pieces)
        expect(p.to - p.from, `a piece of ${d.id}`).to.be.at.least(Math.min(d.division.least, d.need))
    if (d.division.kind === 'shrink') {
      expect(pieces.length).to.be.at.most(1)
      if (sum > 0) expect(sum).to.be.at.least(Math.min(d.division.least, d.need))
    }
    expect(sum, `${d.id} has no more than it needs`).to.be.at.most(d.need)
    expect(new Set(pieces.map(p => dayOf(p.from))).size, `one piece of ${d.id} a day`).to.equal(pieces.length)
    for (const p of pieces) {
      expect(p.from, `${d.id} not before its time`).to.be.at.least(d.earliest)
      const stretch = instance.stretches.find(s => s.from <= p.from && p.to <= s.to)
      expect(stretch, `${d.id} within one stretch`).to.not.equal(undefined)
      for (const u of unitsOf(p)) {
        expect(holder.get(u), `unit ${u} of ${d.id}`).to.equal(undefined)
        expect(busy.has(u), `unit ${u} is taken`).to.equal(false)
        expect(
          d.admitted.some(a => a.from <= u && u < a.to),
          `unit ${u} is not for ${d.id}`,
        ).to.equal(true)
        holder.set(u, d.id)
        const day = instance.days[dayOf(p.from)]
        if (day && day.hours.from <= u && u < day.hours.to)
          drafted[dayOf(p.from)] = (drafted[dayOf(p.from)] ?? 0) + 1
      }
      if (d.group !== null) {
        const key = `${d.group} ${dayOf(p.from)}`
        starts.set(key, [...(starts.get(key) ?? []), p.from])
      }
      for (const { id, gap } of d.after) {
        const leader = instance.demands.find(x => x.id === id)
        if (!leader) continue
        const first = placement.get(id) ?? []
        expect(isComplete(leader, first), `${d.id} waits for ${id}`).to.equal(true)
        for (const q of first) expect(p.from, `${d.id} after ${id}`).to.be.at.least(q.to + gap)
      }
    }
  }
  for (const [key, all] of starts) expect(all.length, `${key} once a day`).to.equal(1)
  for (const [n, day] of instance.days.entries())
    expect(drafted[n], `day ${n} holds no more than it can`).to.be.at.most(day.capacity)
  restsAreKept(instance, holder, busy)
}

const isComplete = (d: Demand, pieces: readonly Span[]): boolean => {
  const sum = pieces.flatMap(unitsOf).length
  return d.division.kind === 'shrink' ? sum > 0 : sum === d.need
}

function restsAreKept(
  { breaks, horizon }: Instance,
  holder: ReadonlyMap<number, string>,
  busy: ReadonlySet<number>,
): void {
  if (!breaks) return
  let [work, gap, hasDraft] = [0, 0, false]
  for (let u = 0; u <= horizon; u++) {
    const isWork = u < horizon && (holder.has(u) || busy.has(u))
    if (isWork) {
      work++
      gap = 0
      hasDraft ||= holder.has(u)
      if (hasDraft) expect(work, `work in one go until unit ${u}`).to.be.at.most(breaks.run)
    } else if (++gap >= breaks.rest) [work, hasDraft] = [0, false]
  }
}

/** What is missed and what has no place, by weight: that part of the price which people mind. */
export function lostOf(instance: Instance, placement: Placement): number {
  return instance.demands.reduce((lost, d) => {
    const units = (placement.get(d.id) ?? []).flatMap(unitsOf)
    const late = d.deadline
    const missed = late === null ? 0 : d.need - units.filter(u => u < late).length
    return lost + d.weight * (1000 * missed + 100 * (d.need - units.length))
  }, 0)
}

/** PLAN §2, term by term. */
export function priceOf(instance: Instance, placement: Placement): number {
  const free = Array.from({ length: instance.horizon }, (_, u) =>
    instance.stretches.some(s => s.from <= u && u < s.to),
  )
  const before = (unit: number): number => free.slice(0, unit).filter(Boolean).length
  const all = before(instance.horizon)
  let price = 0
  const places = new Set<string>()
  for (const d of instance.demands) {
    const pieces = placement.get(d.id) ?? []
    const units = pieces.flatMap(unitsOf)
    const rest = d.need - units.length
    if (d.deadline !== null) {
      const { deadline } = d
      price += 1000 * d.weight * (d.need - units.filter(u => u < deadline).length)
    }
    if (d.division.kind === 'shrink' && units.length > 0) price += 50 * d.weight * rest
    else if (rest > 0) price += 100 * d.weight * rest + 150 * d.weight
    for (const p of pieces) {
      const waited = before(p.from) - before(d.earliest)
      price += 25 + Math.floor((30 * d.weight * (p.to - p.from) * waited) / all)
      for (const u of unitsOf(p)) price += d.admitted.find(a => a.from <= u && u < a.to)?.extra ?? 0
      places.add(`${instance.stretches.findIndex(s => s.from <= p.from && p.from < s.to)} ${d.category}`)
    }
    for (const q of d.planned)
      if (!pieces.some(p => p.from === q.from && p.to === q.to)) price += instance.moved
  }
  return price + 15 * places.size
}
