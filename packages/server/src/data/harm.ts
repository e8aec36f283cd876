import { ServiceError } from '@loom/connectors'
import { isOfDatabase, isRefusedByDatabase } from './database-errors.ts'
import { LeaseLost } from './leases.ts'

/**
 * Whether an error concerns the very item being worked on: it cannot be stored or processed. Then it is set aside
 * and the rest goes on. A service or database that is down, or another server that took over, says nothing about
 * the item.
 */
export const harmsOnlyItself = (error: unknown): boolean =>
  !(error instanceof ServiceError) &&
  !(error instanceof LeaseLost) &&
  (!isOfDatabase(error) || isRefusedByDatabase(error))

/** For people: what was wrong, without the statement and the values. */
export const harmInWords = (error: unknown): string =>
  isRefusedByDatabase(error)
    ? 'It has a value that there is no room for here.'
    : `It cannot be worked with here: ${(error instanceof Error ? error.message : String(error)).slice(0, 200)}`
