import { expect } from 'chai'
import { type Property, PROPERTIES } from '@loom/core/view'
import { computed } from 'vue'
import { shownFacts } from '../src/features/cloth/data/shown-facts.ts'
import { drawnItem } from '../../core/test/support/drawn-item.ts'

describe('what is said of an item beside its title', () => {
  const item = drawnItem(
    'd',
    { kind: 'none' },
    {
      location: 'Long Room',
      due: '2026-11-27',
      estimate: 90,
      people: ['ines', 'mei'],
      sources: ['festival'],
    },
  )
  const saying = (shows: readonly Property[]) =>
    shownFacts({
      shows: computed(() => shows),
      sources: computed(() => [{ id: 'festival', name: 'Festival' } as never]),
      nameOf: id => id.toUpperCase(),
      dyes: computed(() => () => []),
    })

  it('is what the view shows, and not what the drawing says already', () => {
    expect(saying(PROPERTIES).of(item)).to.deep.equal([
      'Long Room',
      'due Fri 27 Nov',
      '1 h 30',
      'Festival',
      'INES, MEI',
    ])
    expect(saying(['due', 'estimate']).of(item, ['estimate'])).to.deep.equal(['due Fri 27 Nov'])
    expect(saying([]).of(item)).to.deep.equal([])
    expect(saying(PROPERTIES).of(drawnItem('e', { kind: 'none' }))).to.deep.equal([])
  })
})
