import type { Guest } from '../items/items.ts'
import { addressOf } from './guests.ts'
import { parseCalendar } from './ical-values.ts'
import { masterOf } from './vevent.ts'

/** Who is invited to an event, read from its calendar object. */

/** What a guest has answered, as far as their calendar said so (RFC 5545 §3.2.12). */
export type GuestAnswer = 'accepted' | 'declined' | 'tentative' | 'none'

export interface Invited {
  /** Whoever invited them; null where nobody is named. */
  organizer: string | null
  guests: (Guest & { answer: GuestAnswer })[]
}

const ANSWERS = new Map<string, GuestAnswer>([
  ['ACCEPTED', 'accepted'],
  ['DECLINED', 'declined'],
  ['TENTATIVE', 'tentative'],
])

/** Of a series, those of all its dates. Throws NotUnderstood. */
export function invitedTo(text: string): Invited {
  const master = masterOf(parseCalendar(text))
  const organizer = master.getFirstProperty('organizer')?.getFirstValue()
  return {
    organizer: organizer ? addressOf(organizer) : null,
    guests: master.getAllProperties('attendee').map(p => {
      const email = addressOf(p.getFirstValue())
      const [name] = [p.getParameter('cn')].flat()
      const [answer] = [p.getParameter('partstat')].flat()
      return { name: name ?? '', email, answer: ANSWERS.get(answer?.toUpperCase() ?? '') ?? 'none' }
    }),
  }
}
