import { type Meaning, statusToWrite, TaskPatch, TaskStatus } from '@loom/core'
import type { ServiceDescription } from './description.ts'
import { pointerOf } from './field-context.ts'

/**
 * The properties that a write to a list cannot carry: the service has no field for them, as described and as a
 * person set the meanings of its columns and words, or allows nobody to change them. `status:…` stands for each
 * status without a word there.
 */
export function unsupportedFields({ fields, operations }: ServiceDescription, meaning: Meaning): string[] {
  const isLacking = (name: keyof TaskPatch): boolean => {
    // No description has a place for these; statuses are looked at one by one.
    if (name === 'url' || name === 'waitsFor' || name === 'location') return true
    if (name === 'status' || name === 'serviceStatus') return false
    const field = fields[name]
    if (!operations.change || !field || field.to === null) return true
    if (name === 'priority' && Object.keys(meaning.priorities).length === 0) return true
    return pointerOf(field.to ?? field.at, field, meaning) === null
  }
  const canSay = (status: TaskStatus): boolean => {
    if (status === 'completed' && operations.complete) return true
    if (status === 'needs-action' && operations.reopen) return true
    const written = operations.status ?? (fields.status?.to === null ? undefined : operations.change)
    return written !== undefined && statusToWrite(meaning, status) !== undefined
  }
  return [
    ...(Object.keys(TaskPatch.shape) as (keyof TaskPatch)[]).filter(isLacking),
    ...TaskStatus.options.filter(s => !canSay(s)).map(s => `status:${s}`),
  ]
}

/** Minutes in the smallest step in which the service counts work; null where it counts to the minute. */
export function estimateStep({ fields }: ServiceDescription): number | null {
  const field = fields.estimatedDuration
  return field?.as === 'minutes' && field.whole ? field.unit : null
}
