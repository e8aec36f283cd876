import { convertIcsCalendar } from 'ts-ics'

/** What a guest's calendar program reads in letters. */

export interface Invited {
  method: string
  uid: string
  sequence: number
  startMs: number
  location: string
}

export const readInvitations = (letters: readonly { calendar: string }[]): Invited[] =>
  letters.flatMap(({ calendar }) => {
    if (calendar === '') return []
    const { method = '', events = [] } = convertIcsCalendar(undefined, calendar)
    return events.map(e => ({
      method,
      uid: e.uid,
      // The first state of a meeting bears no number or 0 (RFC 5545 §3.8.7.4).
      sequence: e.sequence ?? 0,
      startMs: e.start.date.getTime(),
      location: e.location ?? '',
    }))
  })
