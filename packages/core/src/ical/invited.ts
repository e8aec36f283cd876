import type { Guest, GuestAnswer } from '../items/items.ts'
import { addressOf, answerOf } from './guests.ts'
import { parseCalendar } from './ical-values.ts'
import { masterOf } from './vevent.ts'

/** Who is invited to an event, read from its calendar object. */

export interface Invited {
  /** Whoever invited them; null where nobody is named. */
  organizer: string | null
  guests: (Guest & { answer: GuestAnswer })[]
}

/** Of a series, those of all its dates. Throws NotUnderstood. */
export function invitedTo(text: string): Invited {
  const master = masterOf(parseCalendar(text))
  const organizer = master.getFirstProperty('organizer')?.getFirstValue()
  return {
    organizer: organizer ? addressOf(organizer) : null,
    guests: master.getAllProperties('attendee').map(p => {
      const email = addressOf(p.getFirstValue())
      const [name] = [p.getParameter('cn')].flat()
      return { name: name ?? '', email, answer: answerOf(p.getParameter('partstat')) }
    }),
  }
}
