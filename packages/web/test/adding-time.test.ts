import { expect } from 'chai'
import { onDate, zoned } from '@loom/core/view'
import {
  eventMaking,
  markedIn,
  planFor,
  troubleIn,
  type Written,
} from '../src/features/cloth/data/adding-time.ts'

const ZONE = 'Europe/Dublin'
const written: Written = { allDay: false, date: '2026-11-27', last: '', from: '9', to: '10:30' }
const plan = () => planFor({ into: null, busy: true, named: true })

describe('time that is kept', () => {
  it('is read from what was typed, also up to midnight and in whole days', () => {
    const at = (change: Partial<Written>) => markedIn({ ...written, ...change }, ZONE)
    expect(at({})).to.deep.equal({ start: zoned('2026-11-27T09:00:00', ZONE), minutes: 90 })
    expect(at({ from: '22', to: '0:00' })?.minutes).to.equal(120)
    expect(at({ from: '2 pm', to: '2:45 pm' })?.minutes).to.equal(45)
    expect(at({ allDay: true })).to.deep.equal({ start: onDate('2026-11-27'), minutes: 1440 })
    expect(at({ allDay: true, last: '2026-11-29' })?.minutes).to.equal(3 * 1440)
    for (const wrong of [{ to: '8' }, { to: 'noon' }, { date: '' }, { allDay: true, last: '2026-11-20' }])
      expect(at(wrong), JSON.stringify(wrong)).to.equal(null)
  })

  it('is not made with what cannot be understood, and what was typed is not dropped', () => {
    const marked = markedIn(written, ZONE)
    const trouble = (change: Partial<ReturnType<typeof plan>>) =>
      troubleIn({ ...plan(), ...change }, written, marked)
    expect(trouble({ url: 'https://calls.example/1' })).to.equal(null)
    expect(trouble({ url: 'call me' })).to.match(/begins with https/)
    expect(trouble({ every: 'every week', until: '2026-11-01' })).to.match(/before the first/)
    expect(trouble({ every: 'once', until: '2026-11-01' })).to.equal(null)
    expect(troubleIn(plan(), written, null)).to.match(/cannot be read/)
  })

  it('repeats as it was said', () => {
    const marked = { start: onDate('2026-11-27'), minutes: 1440 }
    const made = (change: Partial<ReturnType<typeof plan>>) =>
      eventMaking('Rounds', marked, { ...plan(), ...change }, {}, 'own').repeats
    expect(made({})).to.equal(null)
    expect(made({ every: 'every second week', until: '2027-01-31' })).to.deep.equal({
      every: 'weekly',
      interval: 2,
      until: '2027-01-31',
    })
    expect(made({ every: 'every workday' })?.until).to.equal(null)
  })
})
