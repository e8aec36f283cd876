import type { PlanSpan } from '@loom/core/planning'

/** As they stand in an address. */
export const PLAN_SPANS: readonly PlanSpan[] = ['today', 'week', 'seven', 'fortnight']
