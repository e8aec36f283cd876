import { type Meaning, ofOwn, statusToWrite, type TaskPatch } from '@loom/core'

/** The service's status to write: the named one if it has the right meaning, else the one in the table. */
export function statusOf(patch: TaskPatch, meaning: Meaning): string | undefined {
  const { status, serviceStatus } = patch
  const known = serviceStatus === undefined ? undefined : ofOwn(meaning.statuses, serviceStatus)
  if (known !== undefined && (status === undefined || known === status)) return serviceStatus
  return status && statusToWrite(meaning, status)
}
