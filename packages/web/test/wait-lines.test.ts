import { expect } from 'chai'
import { type ClothItem, whole } from '@loom/core/view'
import { waitLines } from '../src/features/cloth/data/wait-lines.ts'

const MIN = 60_000
const item = (key: string, from: number, to: number, more: Partial<ClothItem> = {}): ClothItem => ({
  ...whole({
    key,
    kind: 'task',
    title: key,
    sources: [],
    place: { kind: 'timed', startMs: from * MIN, endMs: to * MIN },
  }),
  ...more,
})

describe('lines between what waits', () => {
  const pair = { before: 'frame', after: 'panes', gap: 0 }

  it('go from the last of what comes before to the first of what waits for it', () => {
    const items = [
      item('frame 1', 0, 30, { kind: 'block', of: 'frame' }),
      item('frame 2', 60, 90, { kind: 'block', of: 'frame' }),
      item('panes', 120, 150),
      item('panes 2', 200, 230, { kind: 'block', of: 'panes' }),
    ]
    expect(waitLines(items, [pair])).to.deep.equal([{ from: 'frame 2', to: 'panes', wrong: false }])
    expect(waitLines(items, [{ ...pair, gap: 60 }])[0]?.wrong).to.equal(true)
  })

  it('are wrong where it begins too early, one at least of a circle, and none where one of both is not drawn', () => {
    const items = [item('frame', 60, 90), item('panes', 30, 45), item('putty', 0, 5, { atDeadline: true })]
    const back = { before: 'panes', after: 'frame', gap: 0 }
    expect(waitLines(items, [pair, back]).map(l => l.wrong)).to.deep.equal([true, false])
    expect(waitLines(items, [{ before: 'frame', after: 'putty', gap: 0 }])).to.deep.equal([])
    expect(waitLines(items, [{ before: 'frame', after: 'elsewhere', gap: 0 }])).to.deep.equal([])
  })
})
