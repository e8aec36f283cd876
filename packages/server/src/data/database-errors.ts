/** What a database error means to the caller. */

interface DriverError {
  name?: string
  code?: string
  errno?: number
  sqlState?: string
  parent?: DriverError
  cause?: unknown
}

const driverErrorIn = (error: unknown): DriverError => {
  const e = error as DriverError
  return e.parent ?? e
}

/** ER_LOCK_DEADLOCK, ER_LOCK_WAIT_TIMEOUT, ER_CHECKREAD ("Record has changed", also on a cluster's certification). */
const TRY_AGAIN = new Set([1213, 1205, 1020])

/** The transaction came to nothing because of another one; nothing of it has happened. */
export function isConflictOfTransactions(error: unknown): boolean {
  const { errno, code } = driverErrorIn(error)
  if (errno !== undefined && TRY_AGAIN.has(errno)) return true
  const text = error instanceof Error ? error.message : ''
  return /ER_LOCK_DEADLOCK|ER_LOCK_WAIT_TIMEOUT|ER_CHECKREAD|Deadlock found|Record has changed/.test(
    `${code ?? ''} ${text}`,
  )
}

/** ER_ROW_IS_REFERENCED_2: rows of another table still refer to it. */
export const isStillReferredTo = (error: unknown): boolean => driverErrorIn(error).errno === 1451

/** Values too long, out of range or not of their type; a row that breaks a constraint; more than one packet holds. */
const OF_VALUES = new Set([1153, 1264, 1265, 1292, 1300, 1366, 1406, 1690, 4025])

/** The database refuses these very values, and would refuse them again. */
export function isRefusedByDatabase(error: unknown): boolean {
  if (!isOfDatabase(error) || isConflictOfTransactions(error)) return false
  const { errno, sqlState = '', code = '' } = driverErrorIn(error)
  if (errno !== undefined && OF_VALUES.has(errno)) return true
  return /^2[23]/.test(sqlState) || /ER_MAX_ALLOWED_PACKET|ER_NET_PACKET/.test(code)
}

export function isOfDatabase(error: unknown): boolean {
  const { name = '', sqlState, code = '' } = error as DriverError
  return (
    name.startsWith('Sequelize') ||
    name === 'SqlError' ||
    sqlState !== undefined ||
    code.startsWith('ER_') ||
    (error instanceof Error && /ConnectionManager\.getConnection|pool is closed/i.test(error.message))
  )
}

/** ER_DUP_ENTRY. */
export const isDuplicate = (error: unknown): boolean => driverErrorIn(error).errno === 1062
