import { expect } from 'chai'
import fc from 'fast-check'
import { LINES } from './quick-entry-table.ts'
import { type Known, type Part, readQuickEntry } from '../src/capture/quick-entry.ts'

const known: Known = {
  people: [
    { id: 'rafael', name: 'Rafael Quint' },
    { id: 'mei', name: 'Mei Okoro' },
  ],
  lists: [
    { id: 'festival', name: 'Festival' },
    { id: 'print', name: 'Festival print' },
  ],
  // A Tuesday.
  now: Date.parse('2026-11-24T11:12:00Z'),
  zone: 'Europe/Dublin',
}
const told = (parts: Part[]): Record<string, unknown> =>
  Object.fromEntries(
    parts.map(p => {
      switch (p.kind) {
        case 'start':
        case 'due':
          return [p.kind, p.when.kind === 'date' ? p.when.date : p.when.local.slice(0, 16)]
        case 'week':
          return [p.kind, p.week]
        case 'length':
          return [p.kind, p.minutes]
        case 'person':
        case 'list':
          return [p.kind, p.id]
        case 'priority':
          return [p.kind, p.priority]
      }
    }),
  )

describe('a line of plain words', () => {
  for (const [text, title, parts] of LINES)
    it(`reads “${text}”`, () => {
      const entry = readQuickEntry(text, known)
      expect([entry.title, told(entry.parts)]).to.deep.equal([title, parts])
    })

  it('takes any part back into the title, words and all', () => {
    const text = 'Call Ada tomorrow for 45 min, urgent'
    for (const part of readQuickEntry(text, known).parts) {
      const again = readQuickEntry(text, known, [part.words])
      expect(again.title).to.contain(part.words)
      expect(again.parts.map(p => p.kind)).not.to.include(part.kind)
    }
    const all = readQuickEntry(text, known).parts.map(p => p.words)
    expect(readQuickEntry(text, known, all)).to.deep.equal({ title: text, parts: [] })
  })

  it('reads whatever is typed without failing, and never loses a word it did not understand', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), text => {
        const { title, parts } = readQuickEntry(text, known)
        const words = (of: string): string[] => of.toLowerCase().match(/[\p{L}\p{N}]{4,}/gu) ?? []
        const back = new Set([...words(title), ...parts.flatMap(p => words(p.words))])
        for (const w of words(text))
          expect(
            [...back].some(b => b.includes(w) || w.includes(b)),
            w,
          ).to.equal(true)
      }),
      { numRuns: 1_000 },
    )
  })

  it('reads the clock of the person, whatever the clock of the machine', () => {
    const late: Known = { ...known, now: Date.parse('2026-11-24T20:00:00Z'), zone: 'Asia/Kathmandu' }
    // There it is Wednesday already.
    expect(told(readQuickEntry('Count loans tomorrow 9:00', late).parts)).to.deep.equal({
      start: '2026-11-26T09:00',
    })
  })
})
