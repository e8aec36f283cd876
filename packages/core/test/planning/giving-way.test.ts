import { expect } from 'chai'
import fc from 'fast-check'
import { givingWay, yieldingOf } from '../../src/planning/giving-way.ts'
import { plainPlanning } from '../../src/planning/settings.ts'
import type { ClothItem } from '../../src/view/cloth-item.ts'
import { drawnItem } from '../support/drawn-item.ts'
import { at, HOURS, MIN, MONDAY, ZONE } from './asked.ts'

const person = { id: 'p', zone: ZONE, now: at(MONDAY, '08:00') }
const until = at(MONDAY, '23:00')

const block = (n: number, from: number, minutes: number, more: Partial<ClothItem> = {}): ClothItem => {
  const startMs = at(MONDAY, '00:00') + from * MIN
  const place = { kind: 'timed' as const, startMs, endMs: startMs + minutes * MIN }
  const plain = { people: ['p'], busy: true, movable: true, estimate: minutes }
  return drawnItem(`b${n}`, place, { ...plain, ...more })
}

describe('giving way', () => {
  const around = (items: readonly ClothItem[]) => ({
    items,
    person,
    hours: HOURS,
    planning: plainPlanning,
    waits: {},
    days: 3,
  })

  it('moves each piece as a whole to time that is free, off what it makes room for, or to the shelf', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 108, max: 200 }), fc.integer({ min: 2, max: 18 })), {
          minLength: 1,
          maxLength: 6,
        }),
        fc.integer({ min: 108, max: 190 }),
        (spans, from) => {
          const items = spans.map(([s, l], n) => block(n, s * 5, l * 5))
          const taken = { fromMs: at(MONDAY, '00:00') + from * 5 * MIN, toMs: 0 }
          taken.toMs = taken.fromMs + 45 * MIN
          const meets = (a: { fromMs: number; toMs: number }, b: typeof a): boolean =>
            a.fromMs < b.toMs && b.fromMs < a.toMs
          const pieces = yieldingOf(items, person, until).filter(p => meets(p, taken))
          const stay = items.filter(i => !pieces.some(p => p.key === i.key))
          const gone = givingWay(around(items), pieces, taken)
          expect(gone.map(g => g.piece.key)).to.deep.equal(pieces.map(p => p.key))
          const placed = gone.flatMap(g => (g.to ? [{ ...g.to, piece: g.piece }] : []))
          for (const p of placed) {
            expect(p.toMs - p.fromMs).to.equal(p.piece.toMs - p.piece.fromMs)
            expect(meets(p, taken), 'off what was booked').to.equal(false)
            for (const i of stay)
              if (i.place.kind === 'timed')
                expect(meets(p, { fromMs: i.place.startMs, toMs: i.place.endMs })).to.equal(false)
            for (const q of placed) if (q !== p) expect(meets(p, q)).to.equal(false)
          }
        },
      ),
      { numRuns: 60 },
    )
  })

  it('is for what is movable, ahead, and theirs alone', () => {
    const items = [
      block(0, 600, 30),
      block(1, 660, 30, { movable: false }),
      block(2, 400, 30),
      block(3, 720, 30, { recurring: true }),
      block(4, 780, 30, { people: ['q'] }),
      block(5, 840, 30, { done: true }),
      block(6, 900, 30, { kind: 'event' }),
    ]
    expect(yieldingOf(items, person, until).map(p => p.key)).to.deep.equal(['b0'])
  })

  it('goes to the shelf where there is no time for it', () => {
    const [piece] = yieldingOf([block(0, 600, 30)], person, until)
    if (!piece) throw new Error('nothing yields')
    const none = { ...around([block(0, 600, 30)]), hours: { ...HOURS, minutes: [0, 0, 0, 0, 0, 0, 0] } }
    expect(givingWay(none, [piece], { fromMs: piece.fromMs, toMs: piece.toMs })).to.deep.equal([
      { piece, to: null },
    ])
  })
})
