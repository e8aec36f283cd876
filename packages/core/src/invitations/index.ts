export * from './itip.ts'
export * from './letters.ts'
export * from './received.ts'
