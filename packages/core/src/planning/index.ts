/** What screens and the server use of the planner. */
export * from './applied.ts'
export * from './from-cloth.ts'
export * from './plan.ts'
export * from './settings.ts'
export * from './window-edits.ts'
export type { PlanTerms, TaskToPlan } from './demand.ts'
export type { Taken } from './supply.ts'
