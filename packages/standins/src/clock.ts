/**
 * The stand-ins' clock: the machine's, or one that started at `LOOM_CLOCK` (ISO 8601) when the process
 * did, for tests and pictures.
 */
const started = Date.now()
const fixed = process.env.LOOM_CLOCK ? Date.parse(process.env.LOOM_CLOCK) : NaN

export const now = (): number => (Number.isNaN(fixed) ? Date.now() : fixed + (Date.now() - started))

/** `YYYY-MM-DD` of the day `offset` days from the Monday of this week. */
export function weekDay(offset: number): string {
  const today = new Date(now())
  const monday = today.getUTCDate() - ((today.getUTCDay() + 6) % 7)
  const day = new Date(Date.UTC(today.getUTCFullYear(), today.getUTCMonth(), monday + offset))
  return day.toISOString().slice(0, 10)
}
