import { daysBetween } from '../time/when.ts'

/**
 * How much a task presses, 0–100: mostly how near its due date is, then its priority, then its size.
 * A task without a due date can reach 40 at most, so that it never outranks one that is due today.
 */
export function pressure(
  task: { due: string | null; priority: number; estimate: number | null },
  today: string,
): number {
  const weight = task.priority === 0 ? 0 : (10 - task.priority) / 9
  const size = Math.min(1, (task.estimate ?? 30) / 240)
  const nearness = task.due === null ? 0 : 1 / (1 + Math.max(0, daysBetween(today, task.due)) / 5)
  const late = task.due !== null && task.due < today ? 1 : 0
  return Math.round(Math.min(100, 55 * nearness + 15 * late + 25 * weight + 10 * size))
}
