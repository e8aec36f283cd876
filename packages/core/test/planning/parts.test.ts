import { expect } from 'chai'
import fc from 'fast-check'
import { tasksOf } from '../../src/planning/from-cloth.ts'
import type { ClothItem } from '../../src/view/cloth-item.ts'
import { drawnItem } from '../support/drawn-item.ts'
import { at, MONDAY, ZONE } from './asked.ts'

/** Of a task and its parts only one of both wants time. */
const person = { id: 'me', zone: ZONE, now: at(MONDAY, '08:00') }
const learned = (listed: string[] = []) => ({ beside: {}, factors: {}, waits: {}, listed: new Set(listed) })
const whole = (estimate: number | null, more: Partial<ClothItem> = {}): ClothItem =>
  drawnItem('whole', { kind: 'none' }, { estimate, ...more })
const part = (key: string, estimate: number | null, of = 'whole', more: Partial<ClothItem> = {}): ClothItem =>
  drawnItem(key, { kind: 'none' }, { estimate, partOf: { key: of, title: of }, ...more })
const wanted = (items: ClothItem[], listed?: string[]): [string, number | null][] =>
  tasksOf(items, person, [], [], learned(listed)).map(t => [t.id, t.estimate])

describe('a task with parts', () => {
  it('wants time by its parts, those without an estimate share what is left of the whole’s', () => {
    expect(wanted([whole(240), part('a', 60), part('b', null), part('c', null)])).to.deep.equal([
      ['a', 60],
      ['b', 90],
      ['c', 90],
    ])
    expect(wanted([whole(60), part('a', 60), part('b', null)])).to.deep.equal([
      ['a', 60],
      ['b', 5],
    ])
    expect(wanted([whole(null), part('a', null)])).to.deep.equal([['a', null]])
    const worked = whole(240, { blocks: { ahead: 60, spent: 60 } })
    expect(wanted([worked, part('a', null)])).to.deep.equal([['a', 120]])
  })

  it('wants time itself where a rule lists its parts inside it, or where they are done', () => {
    const parts = [part('a', 60), part('b', null)]
    expect(wanted([whole(240), ...parts], ['whole'])).to.deep.equal([['whole', 240]])
    expect(wanted([whole(240), part('a', 60, 'whole', { done: true })])).to.deep.equal([['whole', 240]])
    expect(wanted([part('a', 60, 'elsewhere')]), 'its whole is not here').to.deep.equal([['a', 60]])
  })

  it('never wants time twice, however deep its parts go', () => {
    const tree = fc.array(
      fc.record({
        of: fc.integer({ min: 0, max: 9 }),
        estimate: fc.option(fc.integer({ min: 1, max: 40 }).map(n => n * 5)),
        listed: fc.boolean(),
      }),
      { minLength: 1, maxLength: 10 },
    )
    fc.assert(
      fc.property(tree, all => {
        const items = all.map(({ of, estimate }, n) =>
          of < n ? part(`t${n}`, estimate, `t${of}`) : drawnItem(`t${n}`, { kind: 'none' }, { estimate }),
        )
        const listed = all.flatMap((t, n) => (t.listed ? [`t${n}`] : []))
        const ids = new Set(wanted(items, listed).map(([id]) => id))
        for (const item of items) {
          // Of a task and all that it is a part of, one at the most.
          let on = Number(ids.has(item.key))
          for (let up = item.partOf; up; up = items.find(i => i.key === up?.key)?.partOf ?? null)
            on += Number(ids.has(up.key))
          expect(on).to.be.at.most(1)
        }
        expect(ids.size).to.be.greaterThan(0)
      }),
    )
  })
})
