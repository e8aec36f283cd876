import { NotUnderstood } from '../ical/not-understood.ts'

/** It repeats more often than anybody could want drawn; the message says how often it repeats. */
export class TooOften extends NotUnderstood {}

/**
 * The work that unrolling may cost, and the number of dates it may give. Everything within one object, one reading
 * or one answer shares one budget, because a limit for each of many lines is no limit.
 */
export class UnrollBudget {
  /** Days looked at and dates named. A tenth of a second holds about 150,000. */
  steps: number
  dates: number

  constructor(steps = 150_000, dates = 2_000) {
    this.steps = steps
    this.dates = dates
  }

  /** A part of this budget for one of many, at most what is left. Its use is deducted with `take`. */
  part(most = new UnrollBudget()): UnrollBudget {
    return new UnrollBudget(Math.min(this.steps, most.steps), Math.min(this.dates, most.dates))
  }

  take(steps: number, dates: number): void {
    this.steps -= steps
    this.dates -= dates
  }

  get isSpent(): boolean {
    return this.steps < 0 || this.dates < 0
  }
}
