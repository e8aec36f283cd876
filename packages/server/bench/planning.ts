import {
  defaultSettings,
  lensesOf,
  type Mirror,
  newEvent,
  newTask,
  plainTerms,
  plan,
  type PlanInput,
  type Rule,
  type Tie,
  zoned,
} from '@loom/core'

/** What planning costs, without reading a database: ties at rest, some of them with an edit. */

const RULE: Rule = {
  id: 'r',
  kinds: { a: 'task', b: 'event' },
  home: { a: 'list', b: 'calendar' },
  collections: { a: ['list'], b: ['calendar'] },
  settings: defaultSettings,
  terms: { a: { ...plainTerms, zone: 'Europe/Dublin', precision: 'minute' }, b: plainTerms },
  zone: 'Europe/Dublin',
  newSince: 0,
}
const NOW = Date.UTC(2026, 0, 1)

export function tiesAtRest(count: number): PlanInput['pairs'] {
  return Array.from({ length: count }, (_, i) => {
    const day = new Date(NOW + (i % 90) * 86_400_000).toISOString().slice(0, 10)
    const start = zoned(`${day}T${String(8 + (i % 10)).padStart(2, '0')}:00:00`, 'Europe/Dublin')
    const mirror = (side: 'a' | 'b', item: Mirror['item']): Mirror => ({
      id: `${side}${i}`,
      collectionId: RULE.home[side],
      remoteId: `${side}${i}`,
      revision: '1',
      item,
      presence: 'present',
      seen: {},
      arrivedAt: 0,
      firstSeenAt: NOW,
    })
    const a = mirror('a', newTask(`t${i}`, { summary: `Walk-round ${i}`, start }))
    const b = mirror('b', newEvent(`e${i}`, { anchor: start, minutes: 30 }, { summary: `Walk-round ${i}` }))
    const base = Object.fromEntries(
      lensesOf(RULE).map(l => [
        l.field,
        { a: l.read('a', a.item, undefined), b: l.read('b', b.item, undefined) },
      ]),
    )
    const tie: Tie = { id: `tie${i}`, role: 'mirror', a: a.id, b: b.id, base, memory: {}, released: null }
    return { tie, a, b }
  })
}

export function planning(
  pairs: PlanInput['pairs'],
  edits: number,
): { pass: number; full: number; floor: number } {
  const edited = pairs.map((p, i) =>
    i < edits && p.a
      ? { ...p, a: { ...p.a, item: { ...p.a.item, summary: `${p.a.item.summary}, edited` } } }
      : p,
  )
  const input = (of: PlanInput['pairs']): PlanInput => ({
    rule: RULE,
    pairs: of,
    untied: { a: [], b: [] },
    released: new Map(),
    busy: new Set(),
    pendingUids: new Set(),
    now: NOW,
    idFor: key => key,
  })
  /** Fastest of a few: what the machine needs, and not what it was doing beside it. */
  const fastest = (run: () => unknown): number => {
    let best = Infinity
    for (let i = 0; i < 7; i++) {
      const from = performance.now()
      run()
      best = Math.min(best, performance.now() - from)
    }
    return best
  }
  const text = JSON.stringify(edited.map(p => [p.a?.item, p.b?.item]))
  return {
    pass: fastest(() => plan(input(edited.slice(0, edits)))),
    full: fastest(() => plan(input(edited))),
    floor: fastest(() => JSON.parse(text)),
  }
}
