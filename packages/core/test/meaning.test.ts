import { expect } from 'chai'
import fc from 'fast-check'
import {
  guessStatus,
  type Meaning,
  noMeaning,
  priorityToWrite,
  statusToWrite,
  suggestedMeaning,
  type TaskStatus,
} from '../src/index.ts'

/** What a service's words mean, both ways. */
const STATUSES = ['needs-action', 'in-process', 'completed', 'cancelled'] as const
const words = fc.dictionary(fc.stringMatching(/^s\d$/), fc.constantFrom(...STATUSES), { maxKeys: 6 })

describe('meanings', () => {
  it('write only words that mean what is written, or none', () => {
    fc.assert(
      fc.property(
        words,
        fc.constantFrom(...STATUSES),
        fc.option(fc.stringMatching(/^s\d$/)),
        (statuses, status, named) => {
          const meaning: Meaning = { ...noMeaning, statuses, write: named ? { [status]: named } : {} }
          const word = statusToWrite(meaning, status)
          if (word === undefined) expect(Object.values(statuses)).to.not.include(status)
          else expect(statuses[word]).to.equal(status)
        },
      ),
    )
  })

  it('write the word that was chosen, as long as it still means that', () => {
    const statuses = { open: 'needs-action', fixed: 'completed', shut: 'completed' } as const
    const chosen = { ...noMeaning, statuses, write: { completed: 'shut' } }
    expect(statusToWrite(chosen, 'completed')).to.equal('shut')
    const changed = { ...chosen, statuses: { ...statuses, shut: 'cancelled' as const } }
    expect(statusToWrite(changed, 'completed')).to.equal('fixed')
    expect(statusToWrite(chosen, 'in-process')).to.equal(undefined)
  })

  it('write the nearest priority; the more pressing of two as near', () => {
    const meaning = { ...noMeaning, priorities: { low: 7, mid: 5, high: 3 } }
    const written = [0, 1, 3, 4, 5, 6, 9].map(p => priorityToWrite(meaning, p))
    expect(written).to.deep.equal(['mid', 'high', 'high', 'high', 'mid', 'mid', 'low'])
    expect(priorityToWrite(noMeaning, 3)).to.equal(undefined)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 9 }), p => {
        expect(meaning.priorities).to.have.property(priorityToWrite(meaning, p) ?? '')
      }),
    )
  })

  it('a priority that the service has comes back as it was', () => {
    const priorities = Object.fromEntries(Array.from({ length: 10 }, (_, i) => [`p${i}`, i]))
    for (let p = 0; p < 10; p++) expect(priorityToWrite({ ...noMeaning, priorities }, p)).to.equal(`p${p}`)
  })

  it('are suggested by the service’s own words', () => {
    const suggested = suggestedMeaning({
      statuses: [
        { id: 'a', name: 'Wish', means: 'needs-action' },
        { id: 'b', name: 'Done and swept', means: 'completed' },
      ],
      priorities: [{ id: 'soon', name: 'Soon', means: 5 }],
      roles: [
        { role: 'plan', label: 'The plan', choices: [{ id: 'k8', name: 'When' }], suggested: 'k8' },
        { role: 'due', label: 'The deadline', choices: [{ id: 'k9', name: 'Last day' }], suggested: null },
      ],
      statusesByColumn: {},
    })
    expect(suggested).to.deep.equal({
      ...noMeaning,
      statuses: { a: 'needs-action', b: 'completed' },
      priorities: { soon: 5 },
      columns: { plan: 'k8' },
    })
  })

  const NAMES: [string, TaskStatus][] = [
    ['Noted', 'needs-action'],
    ['To do', 'needs-action'],
    ['Parts ordered', 'in-process'],
    ['Under way', 'in-process'],
    ['Fixed', 'completed'],
    ['Done and swept', 'completed'],
    ['Closed', 'completed'],
    ['Not worth it', 'cancelled'],
    ['Dropped', 'cancelled'],
    ['Thrown away', 'cancelled'],
    ['Not done', 'cancelled'],
    ['', 'needs-action'],
    ['待办', 'needs-action'],
  ]
  for (const [name, status] of NAMES)
    it(`guesses “${name}” to be ${status}`, () => {
      expect(guessStatus(name)).to.equal(status)
    })
})
