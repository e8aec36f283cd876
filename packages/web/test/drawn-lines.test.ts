import { expect } from 'chai'
import type { ShelfGroup } from '@loom/core/view'
import { useDrawnLines } from '../src/features/cloth/data/drawn-lines.ts'

describe('how much of a column of the shelf is drawn', () => {
  const column = (length: number): ShelfGroup => ({
    key: 'none',
    title: 'No date',
    minutes: 0,
    items: Array.from({ length }, (_, i) => ({
      item: { key: `bed-${i}` } as ShelfGroup['items'][number]['item'],
      pressure: 0,
      reasons: [],
      leftOver: null,
    })),
  })

  it('is all of a short one, and nearly all is all', () => {
    const lines = useDrawnLines((line: ShelfGroup['items'][number]) => line.item.key)
    for (const n of [0, 3, 40, 50]) expect(lines.of(column(n)).length, `of ${n}`).to.equal(n)
  })

  it('is the beginning of a long one, and more of it whenever somebody asks', () => {
    const lines = useDrawnLines((line: ShelfGroup['items'][number]) => line.item.key)
    const long = column(170)
    expect(lines.of(long).map(i => i.item.key)).to.deep.equal(
      Array.from({ length: 40 }, (_, i) => `bed-${i}`),
    )
    lines.more(long)
    expect(lines.of(long).length).to.equal(140)
    lines.more(long)
    expect(lines.of(long).length).to.equal(170)
  })

  it('reaches as far down as what somebody wants to see', () => {
    const lines = useDrawnLines((line: ShelfGroup['items'][number]) => line.item.key)
    const long = column(500)
    lines.reveal('bed-300')
    expect(lines.of(long).at(-1)?.item.key).to.equal('bed-300')
    lines.reveal('bed-7')
    expect(lines.of(long).length).to.equal(40)
  })
})
