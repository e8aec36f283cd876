import { expect } from 'chai'
import fc from 'fast-check'
import {
  composeEvent,
  type EventPatch,
  type Guest,
  invitedTo,
  newEvent,
  parseEvent,
  patchEvent,
  zonedAt,
} from '../../src/index.ts'
import {
  type Facts,
  factsOf,
  isNewer,
  objectToSend,
  keptObject,
  readItip,
  replyObject,
  type Told,
  toTell,
} from '../../src/invitations/index.ts'

/** What guests are told, as their calendar programs come to know it. */
describe('letters to guests', () => {
  const NOW = Date.parse('2026-11-24T09:00:00Z')
  const ines: Guest = { name: 'Ines Varga', email: 'ines@quillmere.example' }
  const PEOPLE: Guest[] = ['ada', 'bram', 'cleo'].map(n => ({ name: n, email: `${n}@else.example` }))
  const OURS: Guest = { name: ines.name, email: 'meet-1@intake.example' }

  /** A meeting as it may stand; null: it is gone. */
  interface Stand {
    hour: number
    title: string
    notes: string
    guests: number[]
    off: boolean
  }
  const stand = fc.record(
    {
      hour: fc.integer({ min: 8, max: 10 }),
      title: fc.constantFrom('Vexil', 'Quennip'),
      notes: fc.constantFrom('', 'Bring lamps'),
      guests: fc.subarray([0, 1, 2]),
      off: fc.integer({ min: 0, max: 5 }).map(n => n === 0),
    },
    { noNullPrototype: true },
  )
  function textOf({ hour, title, notes, guests, off }: Stand): string {
    const time = { anchor: zonedAt(NOW + hour * 3_600_000, 'Europe/Dublin'), minutes: 45 }
    const bare = composeEvent(newEvent('plimber', time, { summary: title, description: notes }), NOW)
    const patch: EventPatch = {
      ...(off && { eventStatus: 'cancelled' }),
      guests: { add: guests.flatMap(n => PEOPLE[n] ?? []), drop: [], organizer: ines },
    }
    return patchEvent(bare, patch, NOW)
  }

  /** What a guest's program holds, by RFC 5546: of two it keeps the one of the greater sequence, then stamp. */
  type Held = { sequence: number; stampMs: number; says: string | null }
  function received(held: Held | undefined, text: string): Held {
    const { method, sequence, stampMs, event } = readItip(text)
    const is = { sequence, stampMs: stampMs ?? 0 }
    if (held && (sequence < held.sequence || (sequence === held.sequence && is.stampMs < held.stampMs)))
      return held
    return { ...is, says: method === 'CANCEL' ? null : JSON.stringify([event?.time.anchor, event?.summary]) }
  }

  it('leave every guest with what stands, in whatever way it came about, and tell nobody what they know', () => {
    fc.assert(
      fc.property(fc.array(fc.option(stand), { minLength: 1, maxLength: 8 }), stands => {
        const inboxes = new Map<string, Held>()
        let told: Told | null = null
        let before: string | null = null
        stands.forEach((s, n) => {
          const text: string | null = s && textOf(s)
          const is: Facts | null = text === null ? null : factsOf(text)
          const { sequence, letters } = toTell(told, is)
          expect(sequence, 'never back').to.be.at.least(told?.sequence ?? 0)
          for (const { method, why, to } of letters)
            for (const guest of to) {
              const object = method === 'CANCEL' ? (before ?? text) : text
              const sent = {
                method,
                asksAnew: why === 'moved',
                sequence,
                stampMs: NOW + n * 1000,
                organizer: OURS,
                to: guest,
              }
              const was = inboxes.get(guest.email)
              const is = received(was, objectToSend(object ?? '', sent))
              expect(is.says, `nothing new to ${guest.email}: ${why}`).to.not.equal(was?.says)
              inboxes.set(guest.email, is)
            }
          told = is ? { ...is, sequence } : { times: '', words: '', isCalledOff: true, guests: [], sequence }
          if (text !== null) before = text
          for (const [i, { email }] of PEOPLE.entries()) {
            const comes = s && !s.off && s.guests.includes(i)
            const event = comes ? parseEvent(text ?? '') : null
            const wants = event ? JSON.stringify([event.time.anchor, event.summary]) : null
            expect(inboxes.get(email)?.says ?? null, email).to.equal(wants)
          }
        })
      }),
      { numRuns: 300 },
    )
  })

  it('hold no alarm, no other address of whoever invites, and nobody else where one is no longer invited', () => {
    const alarm = 'BEGIN:VALARM\r\nACTION:DISPLAY\r\nTRIGGER:-PT5M\r\nEND:VALARM\r\n'
    const text = textOf({ hour: 8, title: 'Vexil', notes: '', guests: [0, 1], off: false })
      .replace('END:VEVENT', `${alarm}END:VEVENT`)
      .replace('PARTSTAT=NEEDS-ACTION', 'PARTSTAT=ACCEPTED')
    const [ada] = PEOPLE
    const sent = { asksAnew: false, sequence: 3, stampMs: NOW, organizer: OURS, to: ada as Guest }
    const request = objectToSend(text, { ...sent, method: 'REQUEST' })
    expect(request).to.not.match(/VALARM|ines@quillmere/)
    expect(invitedTo(request).guests.map(g => g.answer)).to.deep.equal(['accepted', 'none'])
    expect(
      invitedTo(objectToSend(text, { ...sent, method: 'REQUEST', asksAnew: true })).guests.map(g => g.answer),
    ).to.deep.equal(['none', 'none'])
    const cancel = readItip(objectToSend(text, { ...sent, method: 'CANCEL' }))
    expect(cancel).to.deep.include({ method: 'CANCEL', sequence: 3, organizer: OURS.email })
    expect(cancel.guests.map(g => g.email)).to.deep.equal(['ada@else.example'])
    expect(cancel.event?.status).to.equal('cancelled')
  })

  it('ask anew for each date that a series changes', () => {
    const bare = textOf({ hour: 8, title: 'Vexil', notes: '', guests: [0], off: false })
    const series = bare.replace('END:VEVENT', 'RRULE:FREQ=WEEKLY;COUNT=4\r\nEND:VEVENT')
    const told = { ...factsOf(series), sequence: 2 }
    const without = series.replace('END:VEVENT', 'EXDATE;TZID=Europe/Dublin:20261201T170000\r\nEND:VEVENT')
    const { sequence, letters } = toTell(told, factsOf(without))
    expect(sequence).to.equal(3)
    expect(letters).to.deep.equal([{ method: 'REQUEST', why: 'moved', to: [PEOPLE[0]] }])
  })

  it('are none to whom no mail goes, nor to whoever invites', () => {
    const text = textOf({ hour: 8, title: 'Vexil', notes: '', guests: [0], off: false }).replace(
      'END:VEVENT',
      'ATTENDEE:urn:uuid:room-7\r\nATTENDEE:mailto:INES@quillmere.example\r\nATTENDEE:mailto:ADA@else.example\r\nEND:VEVENT',
    )
    expect(factsOf(text).guests.map(g => g.email)).to.deep.equal(['ada@else.example'])
  })
})

describe('what calendar programs answer', () => {
  const reply = (lines: string[], head = 'METHOD:REPLY'): string =>
    [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//other//EN',
      head,
      'BEGIN:VEVENT',
      ...lines,
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n')

  it('is read as others write it', () => {
    const plain = reply([
      'UID:plimber',
      'DTSTAMP:20261124T100000Z',
      'SEQUENCE:2',
      'ORGANIZER:MAILTO:meet-1@intake.example',
      'ATTENDEE;CN="Ada; of Else";PARTSTAT=tentative:MAILTO:Ada@Else.example',
      'COMMENT:Perhaps\\, if it rains',
    ])
    expect(readItip(plain)).to.deep.equal({
      method: 'REPLY',
      uid: 'plimber',
      recurrenceId: null,
      sequence: 2,
      stampMs: Date.parse('2026-11-24T10:00:00Z'),
      organizer: 'meet-1@intake.example',
      guests: [{ email: 'ada@else.example', name: 'Ada; of Else', answer: 'tentative' }],
      comment: 'Perhaps, if it rains',
      event: null,
    })
    const one = readItip(
      reply([
        'UID:plimber',
        'RECURRENCE-ID:20261201T170000Z',
        'ATTENDEE;PARTSTAT=DECLINED:mailto:a@b.example',
      ]),
    )
    expect(one).to.deep.include({ recurrenceId: '2026-12-01T17:00:00Z', sequence: 0, stampMs: null })
    // A time that cannot be read takes nothing from the answer.
    const sloppy = readItip(
      reply(['UID:plimber', 'DTSTART:soon', 'SEQUENCE:x', 'ATTENDEE;PARTSTAT=ACCEPTED:mailto:a@b.example']),
    )
    expect(sloppy).to.deep.include({ event: null, sequence: 0 })
  })

  it('is refused where it is none, and bounded where it is monstrous', () => {
    for (const text of [
      '',
      'Thank you!',
      reply(['SUMMARY:no uid']),
      reply(['UID:x'], 'METHOD:DANCE'),
      reply(['UID:x'], 'X-NOT:THERE'),
      `${reply(['UID:x'])}${'x'.repeat(300_000)}`,
    ])
      expect(() => readItip(text), text.slice(0, 80)).to.throw()
    const many = Array.from({ length: 1000 }, (_, n) => `ATTENDEE:mailto:n${n}@else.example`)
    expect(readItip(reply(['UID:x', ...many], 'METHOD:REQUEST')).guests).to.have.length(200)
  })

  it('counts by sequence, then by when it was said', () => {
    const at = (sequence: number, stampMs: number) => ({ sequence, stampMs })
    expect(isNewer(at(1, 5), 2, null), 'of an earlier time').to.equal(false)
    expect(isNewer(at(2, 5), 2, null)).to.equal(true)
    expect(isNewer(at(2, 5), 2, at(2, 5)), 'the same again').to.equal(false)
    expect(isNewer(at(2, 4), 2, at(2, 5)), 'older').to.equal(false)
    expect(isNewer(at(2, 6), 2, at(2, 5))).to.equal(true)
    expect(isNewer(at(2, 1), 2, at(1, 9)), 'for the time that is now').to.equal(true)
  })
})

describe('what a guest keeps and answers', () => {
  const object = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'METHOD:REQUEST',
    'BEGIN:VEVENT',
    'UID:plimber',
    'SUMMARY:Walk',
    'DESCRIPTION:Long',
    'DTSTAMP:20261101T100000Z',
    'DTSTART:20261201T100000Z',
    'RRULE:FREQ=DAILY;COUNT=3',
    'ORGANIZER:mailto:orla@trustees.example',
    'ATTENDEE;CN="Ines; V";RSVP=TRUE;X-A=1:MAILTO:Ines@Quillmere.example',
    'ATTENDEE;PARTSTAT=ACCEPTED:mailto:bram@else.example',
    'BEGIN:VALARM',
    'TRIGGER:-PT5M',
    'END:VALARM',
    'END:VEVENT',
    'BEGIN:VEVENT',
    'UID:plimber',
    'RECURRENCE-ID:20261202T100000Z',
    'DTSTART:20261202T110000Z',
    'ATTENDEE:mailto:ines@quillmere.example',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
  const email = 'ines@quillmere.example'

  it('is the object with their answer in every date, and all else as it was', () => {
    const kept = keptObject(object, new Map([[email, 'tentative' as const]])).replace(/\r\n /g, '')
    expect(kept).to.not.contain('METHOD')
    expect(kept).to.contain(
      'ATTENDEE;CN="Ines; V";X-A=1;PARTSTAT=TENTATIVE:MAILTO:Ines@Quillmere.example\r\n',
    )
    expect(kept).to.contain('ATTENDEE;PARTSTAT=TENTATIVE:mailto:ines@quillmere.example\r\n')
    const others = (text: string): string[] => text.split('\r\n').filter(l => !/^METHOD|ines@/i.test(l))
    expect(others(kept)).to.deep.equal(others(object))
  })

  it('is one guest’s answer to the whole of it, and nothing that is theirs alone', () => {
    const reply = replyObject(object, {
      email,
      answer: 'declined',
      comment: 'Alas, no',
      stampMs: 1_764_500_000_000,
    })
    expect(readItip(reply)).to.deep.include({
      method: 'REPLY',
      uid: 'plimber',
      recurrenceId: null,
      organizer: 'orla@trustees.example',
      comment: 'Alas, no',
      stampMs: 1_764_500_000_000,
      guests: [{ email, name: 'Ines; V', answer: 'declined' }],
    })
    expect(reply).to.not.match(/VALARM|DESCRIPTION|bram|RRULE/)
  })
})
