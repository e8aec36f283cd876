/** What screens and the server use of the ledger. */
export * from './count-once.ts'
export * from './entry.ts'
export * from './report.ts'
export * from './team-week.ts'
export * from './unbroken.ts'
