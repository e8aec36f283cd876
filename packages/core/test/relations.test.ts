import { expect } from 'chai'
import fc from 'fast-check'
import { composeTask, newTask, parseTask, patchTask } from '../src/index.ts'

/** What waits for what, in a calendar object (RFC 9253): read, and written beside all other relations. */
const object = (lines: string[]): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//test//EN',
    'BEGIN:VTODO',
    'UID:one',
    'DTSTAMP:20260101T000000Z',
    'SUMMARY:Hang the lamps',
    ...lines,
    'END:VTODO',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
const relations = (text: string): string[] =>
  text
    .replace(/\r\n[ \t]/g, '')
    .split('\r\n')
    .filter(l => l.startsWith('RELATED-TO'))

describe('relations of a task', () => {
  it('tell a parent from what comes first, wherever they stand', () => {
    const task = parseTask(
      object([
        'RELATED-TO;RELTYPE=FINISHTOSTART;GAP=PT1H30M:poles',
        'RELATED-TO;RELTYPE=SIBLING:other',
        'RELATED-TO;RELTYPE=PARENT:festival',
        'RELATED-TO;reltype="finishtostart":wires',
        'RELATED-TO;RELTYPE=FINISHTOSTART;GAP=nonsense:sockets',
      ]),
    )
    expect(task.parent).to.equal('festival')
    expect(task.waitsFor).to.deep.equal([
      { uid: 'poles', gap: 90 },
      { uid: 'wires', gap: 0 },
      { uid: 'sockets', gap: 0 },
    ])
    expect(parseTask(object(['RELATED-TO:festival'])).parent).to.equal('festival')
    expect(parseTask(object(['RELATED-TO;RELTYPE=FINISHTOSTART:poles'])).parent).to.equal(null)
    expect(parseTask(object([]))).to.not.have.property('waitsFor')
  })

  it('are changed one kind at a time, and what is so already keeps its bytes', () => {
    const text = object([
      'RELATED-TO;RELTYPE=FINISHTOSTART;X-WHY=dark:poles',
      'RELATED-TO;RELTYPE=SIBLING:other',
      'RELATED-TO:festival',
    ])
    const more = patchTask(
      text,
      {
        waitsFor: [
          { uid: 'poles', gap: 0 },
          { uid: 'wires', gap: 1440 },
        ],
      },
      0,
    )
    expect(relations(more)).to.deep.equal([
      'RELATED-TO;RELTYPE=FINISHTOSTART;X-WHY=dark:poles',
      'RELATED-TO;RELTYPE=SIBLING:other',
      'RELATED-TO:festival',
      'RELATED-TO;RELTYPE=FINISHTOSTART;GAP=PT1440M:wires',
    ])
    const none = patchTask(more, { waitsFor: [], parent: null }, 0)
    expect(relations(none)).to.deep.equal(['RELATED-TO;RELTYPE=SIBLING:other'])
    expect(parseTask(patchTask(none, { parent: 'autumn' }, 0)).parent).to.equal('autumn')
  })

  it('come back as they were written', () => {
    const uid = fc
      .string({ minLength: 1, maxLength: 20, unit: 'grapheme-ascii' })
      .filter(u => /^[\w.@-]+$/.test(u))
    const waits = fc.uniqueArray(fc.record({ uid, gap: fc.integer({ min: 0, max: 100_000 }) }), {
      selector: w => w.uid,
      maxLength: 6,
    })
    fc.assert(
      fc.property(waits, waits, fc.option(uid), (first, second, parent) => {
        const text = composeTask(newTask('one', { summary: 'x', parent, waitsFor: first }), 0)
        expect(parseTask(text).waitsFor ?? []).to.deep.equal(first)
        const patched = parseTask(patchTask(text, { waitsFor: second }, 0))
        expect(patched.waitsFor ?? []).to.have.deep.members(second)
        expect(patched.parent).to.equal(parent)
      }),
      { numRuns: 200 },
    )
  })
})
