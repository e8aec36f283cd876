import { expect } from 'chai'
import type { ClothItem } from '@loom/core/view'
import { AheadOfServer } from '../src/features/cloth/data/ahead-of-server.ts'

const item = (key: string, title: string): ClothItem => ({ key, title }) as ClothItem
const titles = (of: { items: ClothItem[] }): string[] => of.items.map(i => i.title)

describe('what the screen shows before the server knows', () => {
  it('stays over every answer that went out before the server knew, and gives way to the first after that', () => {
    const ahead = new AheadOfServer()
    const old = { items: [item('a', 'old'), item('b', 'other')] }
    const before = ahead.ask()
    ahead.show(item('a', 'mine'))
    expect(titles(ahead.over(old, before))).to.deep.equal(['mine', 'other'])
    const meanwhile = ahead.ask()
    ahead.settle('a')
    expect(titles(ahead.over(old, meanwhile))).to.deep.equal(['mine', 'other'])
    const after = ahead.ask()
    const fresh = { items: [item('a', 'theirs'), item('b', 'other')] }
    expect(titles(ahead.over(fresh, after))).to.deep.equal(['theirs', 'other'])
    expect(titles(ahead.over(old, meanwhile)), 'an old answer that comes late is still older').to.deep.equal([
      'mine',
      'other',
    ])
  })

  it('forgets what was refused, and adds nothing to days in which the item is not', () => {
    const ahead = new AheadOfServer()
    ahead.show(item('a', 'mine'))
    const asked = ahead.ask()
    expect(titles(ahead.over({ items: [item('b', 'other')] }, asked))).to.deep.equal(['other'])
    ahead.forget('a')
    expect(titles(ahead.over({ items: [item('a', 'theirs')] }, asked))).to.deep.equal(['theirs'])
  })
})
