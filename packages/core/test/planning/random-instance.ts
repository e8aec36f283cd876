import type { Admitted, Demand, Instance, Span } from '../../src/planning/instance.ts'

/** Instances as a week might be, small or large, from numbers between 0 and 1. */

export interface Shape {
  days: number
  demands: number
  /** Units of a day: 96 of 15 minutes, 288 of 5. */
  day: number
}

const CATEGORIES = ['beds', 'tools', 'letters', 'visits']

export function randomInstance(random: () => number, shape: Shape): Instance {
  const int = (from: number, to: number): number => from + Math.floor(random() * (to - from + 1))
  const maybe = (share: number): boolean => random() < share
  const hour = shape.day / 24
  const days: Instance['days'][number][] = []
  const stretches: Span[] = []
  const busy: Span[] = []
  const windows: Span[] = []
  for (let n = 0; n < shape.days; n++) {
    const start = n * shape.day
    const isOff = maybe(0.1)
    const hours = isOff
      ? { from: start, to: start }
      : { from: start + int(8, 9) * hour, to: start + int(15, 18) * hour }
    const meetings: Span[] = []
    for (let at = hours.from; at < hours.to;) {
      const from = at + int(1, 5 * hour)
      const to = Math.min(hours.to, from + int(2, 2 * hour))
      if (from < hours.to) meetings.push({ from, to })
      at = to + 1
    }
    let at = hours.from
    for (const m of [...meetings, { from: hours.to, to: hours.to }]) {
      if (m.from > at) stretches.push({ from: at, to: m.from })
      at = Math.max(at, m.to)
    }
    busy.push(...meetings)
    // An evening that is set aside for one kind of work.
    if (maybe(0.3)) {
      const evening = { from: start + 19 * hour, to: start + 19 * hour + int(2, 2 * hour) }
      stretches.push(evening)
      windows.push(evening)
    }
    const free = hours.to - hours.from - meetings.reduce((sum, m) => sum + m.to - m.from, 0)
    days.push({
      from: start,
      to: start + shape.day,
      hours,
      capacity: maybe(0.3) ? Math.floor(free * random()) : free,
    })
  }
  const horizon = shape.days * shape.day
  const within = (of: readonly Span[], extra: number): Admitted[] => of.map(s => ({ ...s, extra }))
  const plain = stretches.filter(s => !windows.includes(s))
  const demands: Demand[] = []
  for (let n = 0; n < shape.demands; n++) {
    const kind = random()
    const need = int(1, kind < 0.6 ? 2 * hour : 5 * hour)
    const division: Demand['division'] =
      kind < 0.6
        ? { kind: 'whole' }
        : kind < 0.85
          ? { kind: 'split', least: int(1, hour) }
          : { kind: 'shrink', least: int(1, need) }
    const admitted = maybe(0.6)
      ? within(plain, 0)
      : maybe(0.5)
        ? within(windows, 0)
        : [...within(windows, 0), ...within(plain, maybe(0.5) ? 5 : 10)].sort((x, y) => x.from - y.from)
    const earlier = demands[int(0, Math.max(0, n - 1))]
    const planned: Span[] = []
    const room = admitted.filter(a => a.to - a.from >= need)
    if (maybe(0.15) && room.length > 0) {
      const { from } = room[int(0, room.length - 1)] ?? { from: 0 }
      planned.push({ from, to: from + need })
    }
    demands.push({
      id: `d${String(n).padStart(4, '0')}`,
      need,
      weight: int(1, 9),
      division,
      earliest: maybe(0.7) ? 0 : int(0, Math.floor(horizon / 2)),
      deadline: division.kind === 'shrink' || maybe(0.5) ? null : int(Math.floor(horizon / 4), horizon),
      admitted,
      category: CATEGORIES[int(0, 3)] ?? '',
      after: earlier && maybe(0.2) ? [{ id: earlier.id, gap: int(0, hour) }] : [],
      group: division.kind === 'shrink' ? 'lunch' : null,
      planned,
    })
  }
  const breaks = maybe(0.4) ? { run: int(2 * hour, 3 * hour), rest: 1 } : null
  return { horizon, stretches, days, demands, busy, breaks, moved: maybe(0.8) ? 20 : 200 }
}
