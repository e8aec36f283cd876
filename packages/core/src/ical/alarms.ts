import ICAL from 'ical.js'
import { epochOf, MINUTE } from '../time/when.ts'
import { parseCalendar } from './ical-values.ts'
import { eventIn, masterOf } from './vevent.ts'

const MOST = 10
/** What an alarm is for that we can give; one by mail is its service's own, which sends it. */
const GIVEN = ['DISPLAY', 'AUDIO']

/**
 * When the alarms of an event ring (RFC 5545 §3.6.6), in minutes before it begins; below 0 where that is after. Repeats
 * of an alarm are left out, and what rings at a place, has rung, or is told by a time of its own for a series. Throws
 * NotUnderstood.
 */
export function alarmsOf(text: string): number[] {
  const master = masterOf(parseCalendar(text))
  const {
    recurring: recurs,
    time: { anchor, minutes },
  } = eventIn(master)
  const found = master
    .getAllSubcomponents('valarm')
    .slice(0, 5 * MOST)
    .flatMap(alarm => {
      const action = alarm.getFirstPropertyValue('action')
      // RFC 9074 §6 and §8.
      const isOver = !recurs && alarm.hasProperty('acknowledged')
      if (!GIVEN.includes(String(action).toUpperCase()) || isOver || alarm.hasProperty('proximity')) return []
      const trigger = alarm.getFirstProperty('trigger')
      const value: unknown = trigger?.getFirstValue()
      if (value instanceof ICAL.Duration) {
        const [related] = [trigger?.getParameter('related')].flat()
        const after = value.toSeconds() / 60 + (String(related).toUpperCase() === 'END' ? minutes : 0)
        return [-after]
      }
      if (!(value instanceof ICAL.Time) || recurs || anchor.kind !== 'zoned') return []
      return [(epochOf(anchor, 'UTC') - value.toJSDate().getTime()) / MINUTE]
    })
  const whole = found.flatMap(m => (Number.isFinite(m) ? [Math.round(m) + 0] : []))
  return [...new Set(whole)].slice(0, MOST)
}
