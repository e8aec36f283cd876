import { expect } from 'chai'
import fc from 'fast-check'
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
  const cases: [string, string, Record<string, unknown>][] = [
    [
      'Call lantern maker tomorrow 14:00 for 45 min, for Rafael, Festival list, due Friday, urgent',
      'Call lantern maker',
      {
        start: '2026-11-25T14:00',
        length: 45,
        person: 'rafael',
        list: 'festival',
        due: '2026-11-27',
        priority: 1,
      },
    ],
    ['Water the cereus', 'Water the cereus', {}],
    ['Proof map on Thursday', 'Proof map', { start: '2026-11-26' }],
    ['Write to the bus company any day next week', 'Write to the bus company', { week: '2026-11-30' }],
    ['Order paper, Festival print list, by 4 December', 'Order paper', { list: 'print', due: '2026-12-04' }],
    ['Sew banners for 1.5 hours', 'Sew banners', { length: 90 }],
    ['Sew banners for 2 h 15 min, low priority', 'Sew banners', { length: 135, priority: 9 }],
    ['Cake for Mei at 3pm today', 'Cake', { person: 'mei', start: '2026-11-24T15:00' }],
    ['Buy 14 pots for the fern house', 'Buy 14 pots for the fern house', {}],
  ]
  for (const [text, title, parts] of cases)
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
      { numRuns: 300 },
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
