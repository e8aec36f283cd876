export * from './due.ts'
