import { type Meaning, ofOwn, statusToWrite, type TaskPatch } from '@loom/core'

/** The service's status to write: the one that is named, where it means what is to be said; else the table's. */
export function statusOf(patch: TaskPatch, meaning: Meaning): string | undefined {
  const { status, serviceStatus } = patch
  const known = serviceStatus === undefined ? undefined : ofOwn(meaning.statuses, serviceStatus)
  if (known !== undefined && (status === undefined || known === status)) return serviceStatus
  return status && statusToWrite(meaning, status)
}
