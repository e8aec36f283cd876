import { expect } from 'chai'
import fc from 'fast-check'
import { parseLines, textOf } from '../src/index.ts'

/** The grammar as a pattern (RFC 5545 §3.1): right, and of no use for a line of millions of characters. */
const TEXT = String.raw`(?:[^\r\n]|\r(?!\n))*`
const LINE = new RegExp(String.raw`${TEXT}(?:\r?\n[ \t]${TEXT})*(?:\r?\n|$)`, 'g')
function byPattern(text: string): unknown[] {
  return [...text.matchAll(LINE)].flatMap(([raw]) => {
    if (raw === '') return []
    const flat = raw.replace(/\r?\n[ \t]/g, '').replace(/\r?\n$/, '')
    const m = /^([A-Za-z0-9-]+)((?:;(?:"[^"]*"|[^":])*)?):([\s\S]*)$/.exec(flat)
    return [{ raw, name: (m?.[1] ?? '').toUpperCase(), params: m?.[2] ?? '', value: m?.[3] ?? '' }]
  })
}

describe('content lines', () => {
  const part = fc.constantFrom(
    'SUMMARY',
    'x',
    ';',
    ':',
    '"',
    ',',
    '=',
    '\r',
    '\n',
    '\r\n',
    '\r\n ',
    '\n\t',
    ' ',
    'é',
  )
  it('are read as the grammar says, and give back every byte', () => {
    fc.assert(
      fc.property(fc.array(part, { maxLength: 24 }), parts => {
        const text = parts.join('')
        expect(parseLines(text)).to.deep.equal(byPattern(text))
        expect(textOf(parseLines(text))).to.equal(text)
      }),
      { numRuns: 3000 },
    )
  })

  const MILLIONS = 4_000_000
  for (const [what, text, name] of [
    ['a value', `SUMMARY:${'long '.repeat(MILLIONS / 5)}`, 'SUMMARY'],
    ['a parameter', `SUMMARY;X=${'y'.repeat(MILLIONS)}:short`, 'SUMMARY'],
    ['folds', `SUMMARY:a${'\n b'.repeat(MILLIONS / 3)}`, 'SUMMARY'],
    ['empty folds', `SUMMARY:a${'\n '.repeat(MILLIONS / 2)}`, 'SUMMARY'],
    ['quotes', `SUMMARY;${'"a:b"'.repeat(MILLIONS / 5)}:short`, 'SUMMARY'],
    ['quotes without an end', `SUMMARY;${'"a"'.repeat(MILLIONS / 3)}"`, ''],
    ['no colon', 'SUMMARY;'.repeat(MILLIONS / 8), ''],
    ['carriage returns', `SUMMARY:${'\r'.repeat(MILLIONS)}`, 'SUMMARY'],
    ['lines', 'A:b\n'.repeat(MILLIONS / 20), 'A'],
  ] as const)
    it(`may be of any length: millions of ${what}`, () => {
      const lines = parseLines(text)
      expect(lines[0]?.name).to.equal(name)
      expect(textOf(lines).length).to.equal(text.length)
    })
})
