import { expect } from 'chai'
import fc from 'fast-check'
import {
  addressesIn,
  composeEvent,
  type Guest,
  guestFrom,
  invitedTo,
  newEvent,
  onDate,
  parseEvent,
  patchEvent,
} from '../src/index.ts'

/** Who is invited to an event: read, written, and understood from what a person types. */
describe('guests of an event', () => {
  const NOW = Date.parse('2026-11-24T09:00:00Z')
  const ines: Guest = { name: 'Ines Varga', email: 'ines@quillmere.example' }
  const bram: Guest = { name: 'Bram, the younger', email: 'Bram@else.example' }
  const text = composeEvent(newEvent('e', { anchor: onDate('2026-11-24'), minutes: 1440 }), NOW)
  const change = (of: string, add: Guest[], drop: Guest[] = []): string =>
    patchEvent(of, { guests: { add, drop, organizer: ines } }, NOW)
  const emails = (of: string): string[] => invitedTo(of).guests.map(g => g.email)

  it('are written with whoever invites, once each, and nothing else of the text changes', () => {
    const one = change(text, [bram])
    expect(invitedTo(one)).to.deep.equal({
      organizer: 'ines@quillmere.example',
      guests: [{ name: 'Bram, the younger', email: 'bram@else.example', answer: 'none' }],
    })
    expect(parseEvent(one).attendees).to.equal(1)
    expect(change(one, [{ ...bram, email: 'bram@ELSE.example' }])).to.equal(one)
    const lines = (of: string): string[] => of.replace(/\r\n /g, '').split('\r\n')
    expect(lines(one).filter(l => !lines(text).includes(l))).to.have.length(2)
    // Whoever invited first goes on inviting.
    const other = patchEvent(
      one,
      { guests: { add: [ines], drop: [], organizer: { name: '', email: 'x@y.example' } } },
      NOW,
    )
    expect(invitedTo(other).organizer).to.equal('ines@quillmere.example')
    expect(emails(change(other, [], [bram]))).to.deep.equal(['ines@quillmere.example'])
  })

  it('keep what they answered, and their lines, when others come or go', () => {
    const answered = change(text, [bram]).replace('PARTSTAT=NEEDS-ACTION', 'X-KEPT=1;PARTSTAT=ACCEPTED')
    const more = change(answered, [{ name: '', email: 'late@else.example' }])
    expect(invitedTo(more).guests.map(g => [g.email, g.answer])).to.deep.equal([
      ['bram@else.example', 'accepted'],
      ['late@else.example', 'none'],
    ])
    expect(more.replace(/\r\n /g, '')).to.contain('X-KEPT=1;PARTSTAT=ACCEPTED')
    expect(change(more, [], [{ name: '', email: 'LATE@else.example' }])).to.equal(answered)
  })

  it('come before an alarm inside the event, and no name breaks out of its line', () => {
    const alarm = 'BEGIN:VALARM\r\nACTION:DISPLAY\r\nTRIGGER:-PT5M\r\nEND:VALARM\r\n'
    const withAlarm = text.replace('END:VEVENT', `${alarm}END:VEVENT`)
    const sly = change(withAlarm, [{ name: 'Bram"\r\nX-EVIL:1', email: 'a@b.example' }])
    expect(sly).to.not.match(/^X-EVIL/m)
    expect(emails(sly)).to.deep.equal(['a@b.example'])
    expect(sly.indexOf('ATTENDEE')).to.be.below(sly.indexOf('BEGIN:VALARM'))
  })

  it('whatever is added and taken away again leaves the text as it was, but for who invites', () => {
    const name = fc.string({ maxLength: 30 })
    const guests = fc.uniqueArray(
      fc.record({ name, email: fc.integer({ min: 0, max: 99 }).map(n => `g${n}@else.example`) }),
      { maxLength: 6, selector: g => g.email },
    )
    fc.assert(
      fc.property(guests, all => {
        const invited = change(text, all)
        expect(emails(invited).sort()).to.deep.equal(all.map(g => g.email).sort())
        expect(emails(change(invited, [], all))).to.deep.equal([])
      }),
    )
  })

  it('are understood from an address, a name before it, or the name of somebody known', () => {
    const known = [{ name: 'Tobias Lund', email: 'tobias@quillmere.example' }]
    expect(guestFrom('tobias lund', known)?.email).to.equal('tobias@quillmere.example')
    expect(guestFrom(' a@b.example ', [])).to.deep.equal({ name: '', email: 'a@b.example' })
    expect(guestFrom('Mei Tan <mei@else.example>', [])).to.deep.equal({
      name: 'Mei Tan',
      email: 'mei@else.example',
    })
    for (const none of ['', 'Mei', 'a@', '@b', 'a b@c@d', 'x'.repeat(5000)])
      expect(guestFrom(none, known), none.slice(0, 9)).to.equal(null)
    expect(addressesIn('a@b.example; Mei <mei@else.example>,\nnobody')).to.deep.equal({
      guests: [
        { name: '', email: 'a@b.example' },
        { name: 'Mei', email: 'mei@else.example' },
      ],
      unclear: ['nobody'],
    })
  })
})
