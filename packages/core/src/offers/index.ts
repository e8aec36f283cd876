export * from './quarter.ts'
export * from './terms.ts'
export * from './free-times.ts'
export * from './invitation.ts'
