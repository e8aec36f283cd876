import { now, weekDay } from '../clock.ts'
import { type Appointment, deskMeetings, lessons as lessonsOfWeeks, ownTime, type Size } from '../weeks.ts'
import { ics, type EventSpec } from './ics.ts'
import type { Calendar, GardenState } from './state.ts'

/** The garden's first calendars, told relative to this week. */
export function gardenSeed(
  state: GardenState,
  size: Size,
  write: (calendar: Calendar, name: string, text: string) => void,
): void {
  state.users = {
    ines: { password: 'moonflower', name: 'Ines Varga' },
    tobias: { password: 'glasshouse', name: 'Tobias Lund' },
    mei: { password: 'chalkboard', name: 'Mei Okoro' },
  }
  const calendar = (user: string, slug: string, name: string, colour: string, readOnly = false): Calendar => {
    const made: Calendar = { user, slug, name, colour, readOnly, objects: {}, log: [] }
    state.calendars.push(made)
    return made
  }
  const team = calendar('ines', 'garden-team', 'Garden team', '#1C6C77')
  const visits = calendar('ines', 'teaching', 'Teaching', '#75498A')
  const festival = calendar('ines', 'festival-work', 'Festival work', '#8C6A00')
  const repairs = calendar('ines', 'house-repairs', 'House repairs', '#44566C')
  calendar('ines', 'trustees', 'Trustees', '#A23B66', true).shared = true
  const houses = calendar('tobias', 'houses', 'Glasshouses', '#4E6B35')
  houses.tasks = true
  const lessons = calendar('mei', 'lessons', 'Lessons', '#75498A')
  const holidays = calendar('mei', 'holidays', 'School holidays', '#44566C', true)

  const made = now() - 21 * 86_400_000
  const put = (into: Calendar, slug: string, spec: Omit<EventSpec, 'uid'>): void =>
    write(into, `${slug}.ics`, ics({ uid: `${slug}@quillmere.example`, ...spec }, made))
  /** What an event is about; a small garden has no words for it. */
  const about = (category: string): string[] => (size === 'whole' ? [`CATEGORIES:${category}`] : [])
  const at = (day: number, from: string, to: string, summary: string, extra: string[] = []) => ({
    day: weekDay(day),
    from,
    to,
    summary,
    extra,
  })
  put(
    team,
    'stand-up',
    at(-14, '08:15', '08:45', 'Morning walk-round', ['RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR']),
  )
  put(
    team,
    'trustees',
    at(0, '09:30', '11:00', 'Trustees: festival budget', [
      'LOCATION:Long Room',
      'ORGANIZER;CN=Ines Varga:mailto:ines@quillmere.example',
      'ATTENDEE;CN=Orla Fenn;PARTSTAT=ACCEPTED:mailto:orla@trustees.example',
    ]),
  )
  put(
    team,
    'induction',
    at(1, '10:00', '11:30', 'Volunteer induction', ['LOCATION:Potting shed', ...about('Volunteers')]),
  )
  put(team, 'lender', at(1, '12:30', '13:30', 'Lunch with lantern lender', about('Night walk')))
  put(team, 'herbarium', at(2, '13:00', '14:00', 'Herbarium call', ['LOCATION:Kathmandu by video']))
  put(
    team,
    'rehearsal',
    at(4, '09:00', '12:00', 'Night-walk rehearsal', [
      'LOCATION:All hands, lower gate',
      ...about('Night walk'),
    ]),
  )
  put(team, 'look-back', at(4, '15:00', '16:00', 'Week look-back'))
  put(team, 'seed-swap', at(5, '10:00', '12:00', 'Seed swap', ['LOCATION:Open day', ...about('Volunteers')]))
  put(team, 'scaffold', {
    day: weekDay(2),
    until: weekDay(4),
    summary: 'Scaffold on House 3',
    extra: ['TRANSP:TRANSPARENT'],
  })
  // What the schools' feed tells of, taken over into a calendar as it is: the same UID, the same visit.
  const visit = (n: number, slug: string, spec: ReturnType<typeof at>): void =>
    write(visits, `${slug}.ics`, ics({ uid: `v${n}@school-visits.example`, ...spec }, made))
  visit(
    1,
    'alder',
    at(0, '14:00', '15:30', 'School visit: Alder', ['LOCATION:32 pupils', ...about('Schools')]),
  )
  visit(2, 'rowan', at(1, '13:30', '15:30', 'School visit: Rowan', about('Schools')))
  visit(3, 'hazel', at(3, '10:00', '11:30', 'School visit: Hazel', about('Schools')))
  put(festival, 'lantern-delivery', at(3, '15:30', '16:30', 'Lantern delivery', ['X-QUILLMERE-GATE:north']))
  put(repairs, 'vent-motor', at(1, '09:00', '11:00', 'Repair vent motor, House 3'))
  put(repairs, 'boiler-service', at(3, '13:00', '14:30', 'Boiler service, House 1', about('Glasshouses')))
  put(
    houses,
    'night-temps',
    at(0, '07:30', '08:00', 'Read night temperatures', [
      'RRULE:FREQ=DAILY;COUNT=30',
      ...about('Glasshouses'),
    ]),
  )
  put(houses, 'shading', at(2, '10:00', '12:00', 'Take the shading down, House 2', about('Glasshouses')))
  const todo = (slug: string, lines: string[]): void =>
    write(
      houses,
      `${slug}.ics`,
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'PRODID:-//Quillmere//Garden Calendars//EN',
        'BEGIN:VTODO',
        `UID:${slug}@quillmere.example`,
        'DTSTAMP:20260101T000000Z',
        ...lines,
        'END:VTODO',
        'END:VCALENDAR',
        '',
      ].join('\r\n'),
    )
  todo('scrub-glass', [
    'SUMMARY:Scrub the north panes',
    'PRIORITY:5',
    'STATUS:NEEDS-ACTION',
    `DUE;VALUE=DATE:${weekDay(4).replace(/-/g, '')}`,
  ])
  todo('propagation', [
    'SUMMARY:Prick out the moonflowers',
    'PRIORITY:1',
    'STATUS:IN-PROCESS',
    'PERCENT-COMPLETE:40',
    `DTSTART;TZID=Europe/Dublin:${weekDay(2).replace(/-/g, '')}T140000`,
  ])
  put(lessons, 'bats', at(1, '09:00', '10:30', 'Lesson: bats and moths', about('Schools')))
  put(lessons, 'moss', at(3, '09:00', '10:00', 'Lesson: moss', about('Schools')))
  put(holidays, 'reading-week', { day: weekDay(14), until: weekDay(19), summary: 'Reading week' })
  // The same work stands in the task list as well: a rule should find that out.
  put(festival, 'map-proof', at(1, '15:30', '17:30', 'Festival map proof'))
  if (size === 'small') return
  Object.assign(state.users, {
    rafael: { password: 'lantern-pole', name: 'Rafael Quint' },
    anouk: { password: 'monsoon', name: 'Anouk Thapa' },
    desk: { password: 'night-route', name: 'Festival desk' },
  })
  calendar('rafael', 'rota-jobs', 'Rota jobs', '#4E6B35').itemKind = 'tasks'
  calendar('rafael', 'volunteer-rota', 'Volunteer rota', '#8C6A00')
  calendar('mei', 'deadlines', 'Teaching deadlines', '#A43E2A')
  const own = calendar('anouk', 'own-time', 'Own time', '#A23B66')
  calendar('anouk', 'away', 'Anouk away', '#44566C')
  const desk = calendar('desk', 'desk', 'Festival desk', '#1C6C77')
  const putAll = (
    into: Calendar,
    slug: string,
    all: readonly Appointment[],
    categories: readonly string[] = [],
  ): void => {
    for (const [i, { title, day, from, to, extra = [] }] of all.entries())
      put(into, `${slug}-${i + 1}`, { day, from, to, summary: title, extra: [...extra, ...categories] })
  }
  putAll(lessons, 'lesson', lessonsOfWeeks(), about('Schools'))
  putAll(own, 'own', ownTime())
  putAll(desk, 'desk', deskMeetings(), about('Night walk'))
}
