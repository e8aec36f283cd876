export * from './itip.ts'
export * from './letters.ts'
