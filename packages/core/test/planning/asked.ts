import type { TaskToPlan } from '../../src/planning/demand.ts'
import type { Asked } from '../../src/planning/plan.ts'
import { epochOf, zoned } from '../../src/time/when.ts'

/** What one person asks to have planned on a Monday in June, for tests to say otherwise. */

export const ZONE = 'Europe/Dublin'
export const at = (date: string, clock: string): number => epochOf(zoned(`${date}T${clock}:00`, ZONE), ZONE)
export const MONDAY = '2026-06-15'
export const HOURS = { from: 540, to: 1020, minutes: [420, 420, 420, 420, 420, 0, 0], off: [], zone: ZONE }
export const MIN = 60_000

export const task = (id: string, more: Partial<TaskToPlan> = {}): TaskToPlan => ({
  id,
  estimate: 60,
  taken: 0,
  reserved: 0,
  due: null,
  notBefore: null,
  waitsFor: [],
  category: id,
  pressure: 20,
  windows: [],
  spills: false,
  planned: [],
  ...more,
})
export const usual: Asked = {
  now: at(MONDAY, '08:00'),
  zone: ZONE,
  days: 5,
  hours: HOURS,
  tasks: [],
  taken: [],
  windows: [],
  regulars: [],
  had: {},
  terms: { defaultMinutes: 30, splitFrom: 90, leastPiece: 45 },
  breaks: { after: 90, rest: 10 },
  pinned: [],
}
