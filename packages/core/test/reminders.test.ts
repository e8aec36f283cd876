import { expect } from 'chai'
import { epochOf, isDue, isInMeeting, type Reminders, zoned } from '../src/view/index.ts'
import { drawnItem } from './support/drawn-item.ts'

const ZONE = 'Asia/Kathmandu'
const at = (clock: string, day = '2026-06-17'): number => epochOf(zoned(`${day}T${clock}:00`, ZONE), ZONE)
const hours = {
  from: 540,
  to: 1020,
  minutes: [390, 390, 390, 390, 390, 0, 0],
  off: ['2026-06-18'],
  zone: ZONE,
}
const reminders: Reminders = { plan: 510, review: null }
const terms = (clock: string, day?: string, given = {}) => ({ me: 'me', now: at(clock, day), hours, given })

describe('a reminder', () => {
  it('is due from its hour on, for a while, once a day, in the zone of whoever works', () => {
    const due = (...of: Parameters<typeof terms>): boolean => isDue('plan', reminders, terms(...of))
    expect([due('08:29'), due('08:30'), due('11:29'), due('11:30')]).to.deep.equal([false, true, true, false])
    expect(due('09:00', '2026-06-17', { plan: '2026-06-17' })).to.equal(false)
    expect(due('09:00', '2026-06-17', { plan: '2026-06-16' })).to.equal(true)
    expect(isDue('review', reminders, terms('09:00')), 'never').to.equal(false)
  })

  it('is not given on a day off, nor to whoever is in a meeting', () => {
    expect(isDue('plan', reminders, terms('09:00', '2026-06-18'))).to.equal(false)
    expect(isDue('plan', reminders, terms('09:00', '2026-06-20'))).to.equal(false)
    const place = { kind: 'timed' as const, startMs: at('09:00'), endMs: at('10:00') }
    const meeting = drawnItem('m', place, { kind: 'event', people: ['me'] })
    expect(isInMeeting([meeting], terms('09:30'))).to.equal(true)
    expect(isInMeeting([meeting], terms('10:00'))).to.equal(false)
    for (const more of [
      { busy: false },
      { people: ['you'] },
      { cancelled: true },
      { eventKind: 'break' as const },
    ])
      expect(isInMeeting([{ ...meeting, ...more }], terms('09:30'))).to.equal(false)
  })
})
