import { now, weekDay } from './clock.ts'

/** What the whole demo holds beside the first lists: ten weeks of work that are past, and three that come. */

/** `whole`: with the accounts of all six people; `small`: those of the first lists alone, which is enough for tests. */
export type Size = 'small' | 'whole'

const PAST = 10
const AHEAD = 3

export interface Job {
  title: string
  /** `YYYY-MM-DD`. */
  day: string
  /** `HH:MM`. */
  from: string
  to: string
  /** As Bench List counts: 5 presses most. */
  weight: number
}

const JOBS: [title: string, weekday: number, from: string, to: string, weight: number][] = [
  ['Weed the moss steps', 1, '09:30', '11:30', 3],
  ['Turn the leaf heap', 3, '14:00', '15:30', 2],
  ['Saturday crew: paths', 5, '10:00', '13:00', 4],
  ['Wash pots', 1, '13:00', '14:30', 1],
  ['Stake the dahlias', 3, '10:00', '11:00', 3],
  ['Saturday crew: night beds', 5, '10:00', '13:00', 4],
  ['Paint lantern poles', 0, '14:00', '16:30', 4],
  ['Sort seed envelopes', 2, '10:30', '12:00', 2],
  ['Saturday crew: gates', 5, '09:30', '12:30', 4],
  ['Mend the barrow', 0, '11:30', '12:30', 2],
  ['Carry mulch to bed 9', 2, '14:30', '16:30', 3],
  ['Saturday crew: lawns', 5, '10:00', '12:30', 3],
  ['Hang route ropes', 4, '13:00', '15:00', 5],
  ['Count the torches', 4, '09:00', '10:00', 5],
  ['Saturday crew: stage', 5, '10:00', '14:00', 5],
]

const weeks = (): number[] => Array.from({ length: PAST + AHEAD + 1 }, (_, i) => i - PAST)
/** Three for each week, round and round. */
const threeOf = (week: number): typeof JOBS => {
  const first = ((week + PAST) * 3) % JOBS.length
  return JOBS.slice(first, first + 3)
}

const bed = (week: number): string => `bed ${2 + ((week + PAST) % 12)}`

/** Each with a title of its own, as each is another piece of work. */
export const volunteerJobs = (): Job[] =>
  weeks().flatMap(week =>
    threeOf(week).map(([title, weekday, from, to, weight]) => ({
      title: `${title}, ${bed(week)}`,
      day: weekDay(week * 7 + weekday),
      from,
      to,
      weight,
    })),
  )

const LESSONS = ['moss', 'bats and moths', 'seeds that fly', 'night scents', 'leaf shapes', 'pond life']
const SCHOOLS = ['Alder', 'Rowan', 'Hazel', 'Elder', 'Spindle', 'Aspen', 'Linden']

/** Mei's deadlines: what has to be ready before a school comes. */
export const teachingPrep = (): { title: string; last: string; weight: number }[] =>
  weeks().flatMap(week => {
    const nth = week + PAST
    const lesson = LESSONS[nth % LESSONS.length] ?? ''
    const school = SCHOOLS[nth % SCHOOLS.length] ?? ''
    return [
      { title: `Worksheets: ${lesson}`, last: weekDay(week * 7 + 2), weight: 3 },
      { title: `Answer ${school} school`, last: weekDay(week * 7 + 4), weight: 4 },
    ]
  })

export interface Appointment extends Omit<Job, 'weight'> {
  extra?: string[]
}

export const lessons = (): Appointment[] =>
  weeks().flatMap(week => {
    const lesson = LESSONS[(week + PAST) % LESSONS.length] ?? ''
    return [
      { title: `Lesson: ${lesson}`, day: weekDay(week * 7 + 1), from: '11:45', to: '13:15' },
      { title: `Lesson: ${lesson}, again`, day: weekDay(week * 7 + 3), from: '11:45', to: '13:15' },
    ]
  })

const PRIVATE = ['CLASS:PRIVATE']
const OWN_TIME = ['Dentist', 'Parents’ evening', 'Choir practice', 'Visit to the bank', 'Walk to Swayambhu']

/** Anouk's private calendar: her afternoons are the garden's mornings. */
export const ownTime = (): Appointment[] =>
  weeks().map(week => ({
    title: OWN_TIME[(week + PAST) % OWN_TIME.length] ?? '',
    day: weekDay(week * 7 + (week % 2 === 0 ? 1 : 3)),
    from: '08:45',
    to: '10:15',
    extra: PRIVATE,
  }))

/** The next day that somebody works, whatever weekday it is. */
export function nextWorkday(): string {
  const today = new Date(now()).toISOString().slice(0, 10)
  const ahead = [0, 1, 2, 3, 4, 7].map(weekDay).find(day => day > today)
  return ahead ?? weekDay(8)
}

/**
 * The meetings of the festival office that include Ines. The next working day holds more than fits, and two of
 * them clash.
 */
export const deskMeetings = (): Appointment[] => {
  const full = nextWorkday()
  const on = (from: string, to: string, title: string, extra?: string[]): Appointment => ({
    title,
    day: full,
    from,
    to,
    ...(extra && { extra }),
  })
  return [
    on('10:00', '12:00', 'Fire officer: night route'),
    on('11:30', '12:30', 'Sponsors of the lanterns', ['LOCATION:Long Room']),
    on('14:00', '16:00', 'Stall holders'),
    on('16:00', '18:00', 'Programme: last reading'),
    ...weeks()
      .filter(week => week < 0)
      .flatMap(week => [
        { title: 'Festival desk', day: weekDay(week * 7), from: '13:30', to: '15:00' },
        { title: 'Budget with the trustees’ clerk', day: weekDay(week * 7 + 3), from: '10:00', to: '11:00' },
      ]),
  ]
}
