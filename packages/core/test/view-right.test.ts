import { expect } from 'chai'
import fc from 'fast-check'
import { type Grant, type Onlooker, viewRight } from '@loom/core'

/** Whom a saved view is for. */
describe('what somebody may do with a saved view', () => {
  const who = (id: string, more: Partial<Onlooker> = {}): Onlooker => ({
    id,
    role: 'member',
    groups: [],
    ...more,
  })
  const all = (level: Grant['level']): Grant => ({ to: { kind: 'everybody' }, level })

  it('is its owner’s alone until it is granted, also from coordinators and deputies', () => {
    const alone = { owner: 'ines', grants: [] }
    expect(viewRight(who('ines', { role: 'reader' }), alone)).to.equal('own')
    const others = [who('mei', { role: 'coordinator' }), who('mei', { standsFor: ['ines'] })]
    for (const one of others) {
      expect(viewRight(one, alone)).to.equal('none')
      expect(viewRight(one, { owner: null, grants: [] })).to.equal('none')
    }
  })

  it('follows the most specific word, and readers change nothing', () => {
    const view = {
      owner: 'ines',
      grants: [
        all('everything'),
        { to: { kind: 'group' as const, id: 'crew' }, level: 'change' as const },
        { to: { kind: 'person' as const, id: 'mei' }, level: 'nothing' as const },
      ],
    }
    expect(viewRight(who('tobias'), view)).to.equal('look')
    expect(viewRight(who('bram', { groups: ['crew'] }), view)).to.equal('change')
    expect(viewRight(who('bram', { groups: ['crew'], role: 'reader' }), view)).to.equal('look')
    expect(viewRight(who('mei', { groups: ['crew'] }), view)).to.equal('none')
  })

  it('of one that a leaver shared, coordinators look after it; others keep what they had', () => {
    const grants = fc.array(
      fc.record({
        to: fc.oneof(
          fc.constant({ kind: 'everybody' as const }),
          fc.record({ kind: fc.constant('person' as const), id: fc.constantFrom('a', 'b') }),
        ),
        level: fc.constantFrom('everything' as const, 'change' as const),
      }),
      { minLength: 1, maxLength: 4 },
    )
    fc.assert(
      fc.property(grants, fc.constantFrom('a', 'b', 'c'), (given, id) => {
        const [before, after] = ['gone', null].map(owner => viewRight(who(id), { owner, grants: given }))
        expect(after).to.equal(before)
        const coordinator = who(id, { role: 'coordinator' })
        expect(viewRight(coordinator, { owner: null, grants: given })).to.equal('own')
      }),
    )
  })
})
