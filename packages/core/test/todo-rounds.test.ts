import { expect } from 'chai'
import { occurrencesBetween, parseTask, patchTask } from '../src/index.ts'

const NOW = Date.parse('2026-11-25T09:00:00Z')
const ZONE = 'Europe/Dublin'

const todo = (rule: string, start: string, due: string, more: string[] = []): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'X-KEPT:as it is',
    'BEGIN:VTODO',
    'UID:count',
    'DTSTAMP:20260901T080000Z',
    `DTSTART${start}`,
    `DUE${due}`,
    `RRULE:${rule}`,
    'SUMMARY:Count the frogs',
    'X-OWN:kept',
    ...more,
    'END:VTODO',
    'END:VCALENDAR',
    '',
  ].join('\r\n')

const CASES: [string, string, string, string][] = [
  [
    'every day, by the clock',
    'FREQ=DAILY;COUNT=5',
    `;TZID=${ZONE}:20261023T090000`,
    `;TZID=${ZONE}:20261023T170000`,
  ],
  ['days without an hour', 'FREQ=WEEKLY;BYDAY=MO,TH;COUNT=4', ';VALUE=DATE:20261005', ';VALUE=DATE:20261006'],
  ['until a day', 'FREQ=MONTHLY;UNTIL=20261215T120000Z', ':20260901T120000Z', ':20260902T120000Z'],
]

describe('a task that repeats, as its clients keep it', () => {
  for (const [name, rule, start, due] of CASES)
    it(`goes on to its next round when one is done, and is done with the last: ${name}`, () => {
      let text = todo(rule, start, due)
      const asEvent = text.replaceAll('VTODO', 'VEVENT').replace(/DUE.*\r\n/, '')
      const rounds = occurrencesBetween(asEvent, Date.parse('2026-01-01'), Date.parse('2028-01-01'), ZONE)
      const first = parseTask(text)
      for (const [n, round] of rounds.entries()) {
        const task = parseTask(text)
        expect(task).to.include({ occurrence: String(n), status: 'needs-action', recurring: true })
        const local = task.start?.kind === 'date' ? task.start.date : task.start?.local
        expect(`${local}`).to.equal(round.recurrenceId.replace('Z', ''))
        expect(task.due?.kind).to.equal(first.due?.kind)
        text = patchTask(text, { status: 'completed' }, NOW)
        expect(text).to.include('X-KEPT:as it is')
      }
      expect(parseTask(text)).to.include({ status: 'completed', occurrence: String(rounds.length - 1) })
      // What was done stays written down, each round with the date it had.
      const done = [...text.matchAll(/RECURRENCE-ID[^:]*:(\S+)/g)].map(m => m[1])
      expect(done).to.deep.equal(rounds.slice(0, -1).map(r => r.recurrenceId.replace(/[-:]/g, '')))
      expect(text.match(/X-OWN:kept/g)).to.have.length(rounds.length)
    })

  it('is in the first round that is open where a client leaves its dates at the beginning', () => {
    const text = todo('FREQ=DAILY', `;TZID=${ZONE}:20261023T090000`, `;TZID=${ZONE}:20261023T170000`)
    const record = (day: string): string =>
      `BEGIN:VTODO\r\nUID:count\r\nDTSTAMP:20261024T080000Z\r\nRECURRENCE-ID;TZID=${ZONE}:${day}T090000\r\nSTATUS:COMPLETED\r\nEND:VTODO\r\n`
    const two = text.replace('END:VCALENDAR', `${record('20261023')}${record('20261024')}END:VCALENDAR`)
    const task = parseTask(two)
    expect(task.occurrence).to.equal('2')
    // Over the night in which the clocks are put back, by the clock on the wall.
    expect(task.start).to.deep.include({ local: '2026-10-25T09:00:00' })
    expect(task.due).to.deep.include({ local: '2026-10-25T17:00:00' })
    expect(parseTask(patchTask(two, { status: 'completed' }, NOW))).to.deep.include({
      occurrence: '3',
      start: { kind: 'zoned', local: '2026-10-26T09:00:00', zone: ZONE },
    })
  })

  it('is only moved when its date jumps and nothing was done', () => {
    const text = todo('FREQ=DAILY', `;TZID=${ZONE}:20261023T090000`, `;TZID=${ZONE}:20261023T170000`)
    const moved = patchTask(text, { start: { kind: 'zoned', local: '2026-10-23T11:00:00', zone: ZONE } }, NOW)
    expect(parseTask(moved).occurrence).to.equal('0')
  })
})
