import { daysBetween } from '../time/when.ts'
import { dayWords, durationWords } from './words.ts'

interface Pressing {
  due: string | null
  /** 1 highest … 9 lowest, 0 none (RFC 5545 §3.8.1.9). */
  priority: number
  /** Minutes still to be done; null without an estimate. */
  estimate: number | null
}

export interface Pressure {
  /** 0–100. */
  score: number
  /** Why, what weighs most first. */
  reasons: string[]
}

/**
 * How urgent a task is: mostly how near its due date is, compared with the free time before it, then its priority,
 * then its size. Without a due date the result is at most 40, so such a task never precedes one due today.
 * `freeMinutes`: free working time until the end of its due day, if known.
 */
export function pressureOf(task: Pressing, today: string, freeMinutes: number | null = null): Pressure {
  const parts: { points: number; why: string }[] = []
  const add = (points: number, why: string): void => {
    if (points >= 1) parts.push({ points, why })
  }
  if (task.due !== null) {
    const days = daysBetween(today, task.due)
    const late = days < 0
    add(55 / (1 + Math.max(0, days) / 5), late ? `was due ${dayWords(task.due)}` : dueIn(days, task.due))
    if (late) add(15, `${-days} ${days === -1 ? 'day' : 'days'} late`)
    const needs = task.estimate ?? 30
    if (!late && freeMinutes !== null && freeMinutes < needs * 2)
      add(
        15 * (1 - freeMinutes / (needs * 2)),
        freeMinutes <= 0
          ? 'no free time left before then'
          : `only ${durationWords(freeMinutes)} free before then`,
      )
  }
  const weight = task.priority === 0 ? 0 : (10 - task.priority) / 9
  add(
    25 * weight,
    task.priority <= 3 ? 'high priority' : task.priority <= 6 ? 'medium priority' : 'low priority',
  )
  const size = Math.min(1, (task.estimate ?? 30) / 240)
  add(10 * size, task.estimate === null ? 'no estimate' : `takes ${durationWords(task.estimate)}`)
  const score = Math.round(
    Math.min(
      100,
      parts.reduce((sum, p) => sum + p.points, 0),
    ),
  )
  return { score, reasons: parts.sort((x, y) => y.points - x.points).map(p => p.why) }
}

const dueIn = (days: number, due: string): string =>
  days === 0
    ? 'due today'
    : days === 1
      ? 'due tomorrow'
      : days < 15
        ? `due in ${days} days`
        : `due ${dayWords(due)}`

export const pressure = (task: Pressing, today: string): number => pressureOf(task, today).score
