import { STATUS_WORDS, type TaskStatus } from '@loom/core/view'

/** Every status to choose among, in the order in which work goes through them. */
export const STATUS_CHOICES: { value: TaskStatus; label: string }[] = (
  ['needs-action', 'in-process', 'completed', 'cancelled'] as const
).map(value => ({ value, label: STATUS_WORDS[value] }))
