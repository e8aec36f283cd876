import { expect } from 'chai'
import fc from 'fast-check'
import {
  type Countable,
  countedOnce,
  ENTRY_SOURCES,
  minutesOf,
  wholeMinutes,
} from '../../src/ledger/index.ts'

const MINUTE = 60_000
const spanned = (
  id: string,
  source: Countable['source'],
  from: number,
  to: number,
  assumed = false,
): Countable => ({
  id,
  source,
  assumed,
  time: { fromMs: from * MINUTE, toMs: to * MINUTE },
})

/** Minute by minute: who has it. Written without a look at how it is computed. */
function oracle(entries: readonly Countable[]): Map<string, number> {
  const counted = new Map(entries.map(e => [e.id, 'minutes' in e.time ? e.time.minutes : 0]))
  for (let minute = 0; minute < 400; minute++) {
    const there = entries.filter(
      e => 'fromMs' in e.time && e.time.fromMs / MINUTE <= minute && minute < e.time.toMs / MINUTE,
    )
    for (const source of ENTRY_SOURCES) {
      const [first] = there
        .filter(e => e.source === source)
        .sort((x, y) => {
          const from = (e: Countable): number => ('fromMs' in e.time ? e.time.fromMs : 0)
          return Number(x.assumed) - Number(y.assumed) || from(x) - from(y) || (x.id < y.id ? -1 : 1)
        })
      if (!first) continue
      counted.set(first.id, (counted.get(first.id) ?? 0) + 1)
      break
    }
  }
  return counted
}

const some = fc
  .array(
    fc.record({
      source: fc.constantFrom(...ENTRY_SOURCES),
      from: fc.integer({ min: 0, max: 300 }),
      length: fc.integer({ min: 1, max: 90 }),
      lies: fc.boolean(),
      assumed: fc.boolean(),
    }),
    { maxLength: 12 },
  )
  .map(all =>
    all.map(({ source, from, length, lies, assumed }, at): Countable => {
      const id = `e${String(at).padStart(2, '0')}`
      return lies
        ? spanned(id, source, from, from + length, assumed)
        : { id, source, assumed, time: { minutes: length } }
    }),
  )

describe('minutes that count', () => {
  it('go to what was said by hand before a clock, a block and a meeting', () => {
    const counted = countedOnce([
      spanned('meeting', 'attended', 0, 60),
      spanned('block', 'worked', 30, 90),
      spanned('clock', 'clock', 80, 100),
      spanned('hand', 'hand', 20, 40),
      { id: 'said', source: 'hand', assumed: false, time: { minutes: 25 } },
    ])
    expect(Object.fromEntries(counted)).to.deep.equal({
      hand: 20,
      clock: 20,
      block: 40,
      meeting: 20,
      said: 25,
    })
  })

  it('are those of an oracle that asks minute by minute, in whatever order they come', () => {
    fc.assert(
      fc.property(some, fc.integer(), (entries, seed) => {
        const counted = countedOnce(entries)
        expect(counted).to.deep.equal(oracle(entries))
        const shuffled = [...entries].sort((x, y) => hashed(x.id, seed) - hashed(y.id, seed))
        for (const [id, minutes] of countedOnce(shuffled)) expect(minutes).to.equal(counted.get(id))
      }),
      { numRuns: 400 },
    )
  })

  it('are never more than there were, and none are lost', () => {
    fc.assert(
      fc.property(some, entries => {
        const sum = [...countedOnce(entries).values()].reduce((x, y) => x + y, 0)
        const lying = new Set<number>()
        let said = 0
        for (const { time } of entries)
          if ('minutes' in time) said += minutesOf(time)
          else for (let m = time.fromMs / MINUTE; m < time.toMs / MINUTE; m++) lying.add(m)
        expect(sum).to.equal(said + lying.size)
      }),
    )
  })

  it('are whole, and a day at the most', () => {
    expect(wholeMinutes(0, 29_000)).to.equal(null)
    expect(wholeMinutes(10, 31_000)).to.deep.equal({ fromMs: 0, toMs: MINUTE })
    expect(wholeMinutes(0, 40 * 3_600_000)).to.deep.equal({ fromMs: 0, toMs: 24 * 3_600_000 })
    expect(wholeMinutes(MINUTE, 0)).to.equal(null)
    // Three seconds are nothing, also where the half of a minute lies between.
    expect(wholeMinutes(28_000, 31_000)).to.equal(null)
    expect(wholeMinutes(31_000, 66_000)).to.deep.equal({ fromMs: MINUTE, toMs: 2 * MINUTE })
  })
})

const hashed = (id: string, seed: number): number => ((Number(id.slice(1)) + 7) * (seed | 1)) % 97
