import { type Meaning, statusToWrite, type TaskPatch, TaskStatus } from '@loom/core'
import type { ServiceDescription } from './description.ts'
import { pointerOf } from './fields.ts'

/**
 * What a write to a list cannot say: properties for which its service, as it is described and as a person has said
 * what its columns and words mean, has no room, or which it lets nobody change; `status:…` for each status it has no
 * word for.
 */
export function lacksIn({ fields, operations }: ServiceDescription, meaning: Meaning): string[] {
  const says: Exclude<keyof TaskPatch, 'serviceStatus' | 'url' | 'status'>[] = [
    'summary',
    'description',
    'start',
    'due',
    'estimatedDuration',
    'priority',
    'categories',
    'assignees',
    'parent',
  ]
  const isLacking = (name: (typeof says)[number]): boolean => {
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
    'url',
    'location',
    ...says.filter(isLacking),
    ...TaskStatus.options.filter(s => !canSay(s)).map(s => `status:${s}`),
  ]
}

/** Minutes in the smallest step in which the service counts work; null where it counts to the minute. */
export function estimateStep({ fields }: ServiceDescription): number | null {
  const field = fields.estimatedDuration
  return field?.as === 'minutes' && field.whole ? field.unit : null
}
