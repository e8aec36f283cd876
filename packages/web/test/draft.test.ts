import type { PieceOf, TeamTold } from '@loom/core/planning'
import { expect } from 'chai'
import fc from 'fast-check'
import { pieceKey } from '../src/features/cloth/draft/drafted-items.ts'
import { useDraft } from '../src/features/cloth/draft/use-draft.ts'

const HALF_HOUR = 1_800_000
const piece = fc
  .record({ of: fc.constantFrom('sluice', 'hinges', 'walk'), at: fc.nat(40), isPinned: fc.boolean() })
  .map(({ of, at, isPinned }): PieceOf => {
    const regular = of === 'walk' ? of : null
    const id = regular === null ? of : `${of} ${at}`
    return { person: 'ines', id, regular, isPinned, fromMs: at * HALF_HOUR, toMs: (at + 1) * HALF_HOUR }
  })
const pieces = fc.uniqueArray(piece, { selector: pieceKey, maxLength: 8 })
const told = (all: PieceOf[]): TeamTold => ({
  pieces: all,
  notPlaced: [],
  left: [],
  late: [],
  withoutEstimate: [],
  windows: [],
  isUnfinished: false,
})

describe('a draft that is made anew while one of its pieces is open', () => {
  it('keeps open what it was, wherever it lies now, as long as it lies anywhere', () => {
    fc.assert(
      fc.property(pieces, fc.nat(), fc.array(pieces, { maxLength: 4 }), (first, choice, then) => {
        fc.pre(first.length > 0)
        const draft = useDraft()
        draft.tell(told(first))
        let open = first[choice % first.length]
        if (!open) return
        draft.select(pieceKey(open))
        for (const next of then) {
          draft.tell(told(next))
          const own = next.filter(p => (open?.regular ? p.regular === open.regular : p.id === open?.id))
          const now = draft.selected.value === null ? undefined : draft.pieceOf(draft.selected.value)
          if (own.length === 0) {
            expect(draft.selected.value).to.equal(null)
            return
          }
          const same = own.find(p => p.fromMs === open?.fromMs)
          if (same) expect(now).to.equal(same)
          expect(own).to.include(now)
          open = now
        }
      }),
    )
  })
})

describe('what would help, taken', () => {
  it('shows the draft that was tried: it, what gives way for it, and all else where it was', () => {
    const at = (n: number) => ({ fromMs: n * HALF_HOUR, toMs: (n + 1) * HALF_HOUR })
    const other: PieceOf = { person: 'ines', id: 'hinges', regular: null, isPinned: false, ...at(3) }
    const draft = useDraft()
    const why = { kind: 'no room' as const }
    const lacks = [{ id: 'sluice', regular: null, minutes: 30, why, person: 'ines' }]
    draft.tell({ ...told([other]), notPlaced: lacks })
    const what = { key: 'call', ...at(8) }
    draft.take('ines', 'sluice', { kind: 'moving', pieces: [at(1)], what })
    const shown = draft.told.value
    expect(shown?.notPlaced).to.deep.equal([])
    expect(shown?.pieces.map(p => [p.id, p.fromMs / HALF_HOUR, p.isPinned])).to.deep.equal([
      ['sluice', 1, true],
      ['hinges', 3, false],
      ['call', 8, true],
    ])
    expect([draft.asTried.value, draft.givingWay.value]).to.deep.equal([true, ['call']])
    // What gives way is not left out: it is back where it stands.
    draft.leave({ id: 'call', title: 'Call', regular: null })
    expect([draft.leftOut.value, draft.givingWay.value]).to.deep.equal([[], []])
  })
})
