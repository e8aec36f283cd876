import { ServiceError } from '@loom/connectors'
import { isOfDatabase, isRefusedByDatabase } from './database-errors.ts'
import { LeaseLost } from './leases.ts'

/**
 * Whether an error is about the very thing that was being worked on, so that it is to be set aside and the rest goes
 * on: it cannot be stored, or cannot be worked with. A service or database that is away, or another server that has
 * taken over, says nothing about it.
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
