import { expect } from 'chai'
import fc from 'fast-check'
import {
  type Category,
  type CategoryChange,
  CategoryNames,
  changedCategories,
  dyeFor,
} from '../src/view/categories.ts'

const word = fc.constantFrom('Beds', 'beds ', 'Borders', 'Glass', 'GLASS', 'Paths', 'Visitors', 'Schools')
const dye = fc.option(fc.constantFrom('#4e6b35', '#1c6c77'))
const change: fc.Arbitrary<Exclude<CategoryChange, { do: 'restore' }>> = fc.oneof(
  fc.record({ do: fc.constant('dye' as const), name: word, dye }),
  fc.record({ do: fc.constant('rename' as const), name: word, to: word }),
  fc.record({ do: fc.constant('part' as const), name: word, word }),
)
const plain = (w: string): string => w.trim().toLowerCase()

describe('what a workspace calls its categories', () => {
  it('gives each word one name, which is its own name', () => {
    fc.assert(
      fc.property(fc.array(change, { maxLength: 12 }), word, (changes, w) => {
        const all = changes.reduce<Category[]>(changedCategories, [])
        const names = new CategoryNames(all)
        expect(names.nameOf(names.nameOf(w))).to.equal(names.nameOf(w))
        const words = all.flatMap(c => [c.name, ...c.words]).map(plain)
        expect(new Set(words).size).to.equal(words.length)
      }),
    )
  })

  it('makes one of two, and parts them again, whatever was said before', () => {
    fc.assert(
      fc.property(fc.array(change, { maxLength: 8 }), word, word, (changes, a, b) => {
        const before = changes.reduce<Category[]>(changedCategories, [])
        const was = new CategoryNames(before)
        const [from, into] = [was.nameOf(a), was.nameOf(b)]
        fc.pre(plain(from) !== plain(into))
        const merged = changedCategories(before, { do: 'rename', name: from, to: into })
        const names = new CategoryNames(merged)
        expect(names.nameOf(a)).to.equal(names.nameOf(b))
        const again = changedCategories(merged, { do: 'part', name: into, word: from })
        expect(new CategoryNames(again).nameOf(from)).to.equal(from)
      }),
    )
  })

  it('writes what the item says already, else what its service says most, else the name', () => {
    const all = [{ name: 'Beds', dye: null, words: ['Borders', 'Planting'] }]
    const names = new CategoryNames(all)
    expect(names.toWrite('Beds', ['planting'], ['Borders'])).to.equal('planting')
    expect(names.toWrite('beds', [], ['Glass', 'Borders', 'Planting'])).to.equal('Borders')
    expect(names.toWrite('Beds', [], [])).to.equal('Beds')
    expect(names.toWrite('Borders', ['Planting'], [])).to.equal('Borders')
    expect(names.toWrite('Glass', [], [])).to.equal('Glass')
    expect(names.namesOf(['Planting', 'Fixed', 'borders', 'Glass'])).to.deep.equal(['Beds', 'Glass'])
  })

  it('keeps nothing of what says nothing any more', () => {
    const dyed = changedCategories([], { do: 'dye', name: 'Beds', dye: '#4e6b35' })
    expect(changedCategories(dyed, { do: 'dye', name: 'beds', dye: null })).to.deep.equal([])
    const renamed = changedCategories([], { do: 'rename', name: 'Beds', to: 'Borders' })
    expect(changedCategories(renamed, { do: 'part', name: 'Borders', word: 'beds' })).to.deep.equal([])
  })

  it('dyes each by its name, in a colour, and different names mostly in different ones', () => {
    fc.assert(fc.property(fc.string(), w => void expect(dyeFor(w)).to.match(/^#[0-9a-f]{6}$/)))
    expect(dyeFor('Beds')).to.equal(dyeFor('beds'))
    const names = Array.from({ length: 40 }, (_, i) => `Bed ${i}`)
    expect(new Set(names.map(dyeFor)).size).to.be.greaterThan(20)
  })
})
