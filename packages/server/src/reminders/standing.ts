import { addDays, dayAt } from '@loom/core'
import { spansOf } from '@loom/core/windows'
import { type Reminder, remindersOf, seriesOf } from '@loom/core/reminders'
import type { Sql } from '../data/database.ts'
import { itemReminders } from '../data/repositories/reminders.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { planningFor } from '../planning/planning.ts'
import { alarmsIn } from '../view/alarms.ts'
import { clothSeenBy } from '../view/own-cloth.ts'
import { peopleOf } from '../view/people.ts'

/** What stands now that a member is to be reminded of, as they see it. */

export interface Standing {
  reminders: Reminder[]
  byMail: boolean
  /** Until when this may be looked at as it is, where nothing changes, epoch ms. */
  holdsUntilMs: number
}

const HOUR = 3_600_000
/** An alarm that rings longer before is not heard of. */
const ALARM_DAYS = 7

/** Yesterday's, as what began before midnight may still be of use, and as far ahead as the longest lead reaches. */
export async function standingFor(sql: Sql, member: Member, now: number): Promise<Standing> {
  const { id: me, workspaceId, zone } = member
  const { planning } = await planningFor(sql, member)
  const { reminders, windows } = planning
  const chosen = new Map(
    (await itemReminders(sql, { memberId: me })).map(r => [r.item_key, r.minutes] as const),
  )
  const leads = [reminders.event, reminders.block, reminders.due, reminders.window, ...chosen.values()]
  const ahead = Math.max(
    reminders.alarms ? ALARM_DAYS : 0,
    Math.ceil(Math.max(0, ...leads.map(l => l ?? 0)) / 1440),
  )
  const from = addDays(dayAt(now, zone), -1)
  const days = 3 + ahead
  const dates = Array.from({ length: days }, (_, n) => addDays(from, n))
  const { items } = await clothSeenBy(sql, member, { from, days }, now)
  // Those of one's own alone: what another set for themselves is theirs.
  const own = items.filter(i => reminders.alarms && i.kind === 'event' && i.people.includes(me))
  const alarms = await alarmsIn(sql, [...new Set(own.map(i => seriesOf(i.key)))])
  const person = (await peopleOf(sql, workspaceId)).people.find(p => p.id === me)
  const hours = person?.hours ?? { from: 0, to: 1440, minutes: [0, 0, 0, 0, 0, 0, 0], off: [], zone }
  return {
    reminders: remindersOf(items, {
      me,
      hours,
      reminders,
      windows: windows.flatMap(w =>
        spansOf(w, dates, hours).map(s => ({ id: w.id, name: w.name, fromMs: s.fromMs })),
      ),
      alarms,
      chosen,
      focusUntilMs: planning.focusUntilMs,
      dates,
    }),
    byMail: reminders.mail,
    holdsUntilMs: now + HOUR,
  }
}
