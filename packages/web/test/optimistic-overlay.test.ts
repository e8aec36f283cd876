import { expect } from 'chai'
import type { ClothItem } from '@loom/core/view'
import { OptimisticOverlay } from '../src/features/cloth/data/optimistic-overlay.ts'

const item = (key: string, title: string): ClothItem => ({ key, title }) as ClothItem
const titles = (of: { items: ClothItem[] }): string[] => of.items.map(i => i.title)

describe('what the screen shows before the server knows', () => {
  it('stays over every answer that went out before the server knew, and gives way to the first after that', () => {
    const overlay = new OptimisticOverlay()
    const old = { items: [item('a', 'old'), item('b', 'other')] }
    const before = overlay.ask()
    overlay.show(item('a', 'mine'))
    expect(titles(overlay.over(old, before))).to.deep.equal(['mine', 'other'])
    const meanwhile = overlay.ask()
    overlay.settle('a')
    expect(titles(overlay.over(old, meanwhile))).to.deep.equal(['mine', 'other'])
    const after = overlay.ask()
    const fresh = { items: [item('a', 'theirs'), item('b', 'other')] }
    expect(titles(overlay.over(fresh, after))).to.deep.equal(['theirs', 'other'])
    expect(
      titles(overlay.over(old, meanwhile)),
      'an old answer that comes late is still older',
    ).to.deep.equal(['mine', 'other'])
  })

  it('forgets what was refused, and adds nothing to days in which the item is not', () => {
    const overlay = new OptimisticOverlay()
    overlay.show(item('a', 'mine'))
    const asked = overlay.ask()
    expect(titles(overlay.over({ items: [item('b', 'other')] }, asked))).to.deep.equal(['other'])
    overlay.forget('a')
    expect(titles(overlay.over({ items: [item('a', 'theirs')] }, asked))).to.deep.equal(['theirs'])
  })
})
