/** Writes the events that this service's own page and its first data are made of. */

const DUBLIN = `BEGIN:VTIMEZONE
TZID:Europe/Dublin
BEGIN:STANDARD
DTSTART:19961027T020000
RRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=10
TZOFFSETFROM:+0100
TZOFFSETTO:+0000
TZNAME:GMT
END:STANDARD
BEGIN:DAYLIGHT
DTSTART:19960331T010000
RRULE:FREQ=YEARLY;BYDAY=-1SU;BYMONTH=3
TZOFFSETFROM:+0000
TZOFFSETTO:+0100
TZNAME:IST
END:DAYLIGHT
END:VTIMEZONE`

export interface EventSpec {
  uid: string
  summary: string
  /** `YYYY-MM-DD`, alone for an all-day event. */
  day: string
  /** `HH:MM`, in Europe/Dublin. */
  from?: string
  to?: string
  /** Day after the last, for an all-day event. */
  until?: string
  extra?: string[]
}

const escape = (text: string): string =>
  text
    .replace(/\\/g, '\\\\')
    .replace(/[;,]/g, m => `\\${m}`)
    .replace(/\n/g, '\\n')

function nextDay(day: string): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + 86_400_000).toISOString().slice(0, 10)
}

export function ics(spec: EventSpec, nowMs: number): string {
  const stamp = new Date(nowMs).toISOString().replace(/[-:]/g, '').slice(0, 15) + 'Z'
  const date = spec.day.replace(/-/g, '')
  const clock = (time: string): string => `;TZID=Europe/Dublin:${date}T${time.replace(':', '')}00`
  const times =
    spec.from && spec.to
      ? [`DTSTART${clock(spec.from)}`, `DTEND${clock(spec.to)}`]
      : [
          `DTSTART;VALUE=DATE:${date}`,
          `DTEND;VALUE=DATE:${(spec.until ?? nextDay(spec.day)).replace(/-/g, '')}`,
        ]
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Quillmere//Garden Calendars//EN',
    ...(spec.from ? DUBLIN.split('\n') : []),
    'BEGIN:VEVENT',
    `UID:${spec.uid}`,
    `DTSTAMP:${stamp}`,
    `CREATED:${stamp}`,
    `LAST-MODIFIED:${stamp}`,
    ...times,
    `SUMMARY:${escape(spec.summary)}`,
    ...(spec.extra ?? []),
    'END:VEVENT',
    'END:VCALENDAR',
  ]
  return lines.map(l => `${l}\r\n`).join('')
}
