import { expect } from 'chai'
import fc from 'fast-check'
import {
  clockWords,
  dayWords,
  instantDayWords,
  longDayWords,
  secondWords,
  shortName,
} from '../src/view/words.ts'

/** Words for days and times, against those the engine has for English. */
describe('words for days and times', () => {
  const day = fc
    .date({ min: new Date('1970-01-01'), max: new Date('2100-12-31'), noInvalidDate: true })
    .map(d => d.toISOString().slice(0, 10))
  const instant = fc.integer({ min: 0, max: Date.parse('2037-12-31') })
  const zone = fc.constantFrom('Europe/Dublin', 'Asia/Kathmandu', 'Pacific/Apia', 'America/St_Johns', 'UTC')
  const told = (at: number, options: Intl.DateTimeFormatOptions): string =>
    new Intl.DateTimeFormat('en-GB', options).format(at).replaceAll(',', '')

  it('any day in full and in short', () => {
    fc.assert(
      fc.property(day, date => {
        const full = told(Date.parse(date), {
          timeZone: 'UTC',
          weekday: 'long',
          day: 'numeric',
          month: 'long',
        })
        expect(longDayWords(date)).to.equal(full)
        const [weekday = '', number, month = ''] = full.split(' ')
        expect(dayWords(date)).to.equal(`${shortName(weekday)} ${number} ${shortName(month)}`)
      }),
      { numRuns: 300 },
    )
  })

  it('any moment, in anybody’s zone, on a clock of 24 hours and of 12', () => {
    fc.assert(
      fc.property(instant, zone, (at, timeZone) => {
        const time = told(at, { timeZone, timeStyle: 'medium', hourCycle: 'h23' })
        expect(secondWords(at, timeZone)).to.equal(time)
        expect(clockWords(at, timeZone)).to.equal(time.slice(0, 5))
        const half = new Intl.DateTimeFormat('en-US', { timeZone, timeStyle: 'medium' }).format(at)
        expect(secondWords(at, timeZone, '12')).to.equal(half.replace(/\s/, ' ').toLowerCase())
        const date = new Intl.DateTimeFormat('en-CA', { timeZone }).format(at)
        expect(instantDayWords(at, timeZone)).to.equal(dayWords(date))
      }),
      { numRuns: 300 },
    )
  })
})
