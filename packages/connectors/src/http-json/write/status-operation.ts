import type { Task } from '@loom/core'
import type { Operation, ServiceDescription } from '../description.ts'

/** The operation that sets a status, where it is not a field like any other. */
export function statusOperation(
  { operations }: ServiceDescription,
  status: Task['status'] | undefined,
): Operation | undefined {
  if (status === undefined) return undefined
  const own = { completed: operations.complete, 'needs-action': operations.reopen }
  return (status in own ? own[status as keyof typeof own] : undefined) ?? operations.status
}
