/**
 * The moment the tests take place in: the machine's, or `LOOM_CLOCK` (ISO 8601), for product, stand-ins and tests
 * alike. Waiting goes by the machine's clock.
 */
import { now, weekDay } from '@loom/standins'

export { now, weekDay }

const DAY_MS = 86_400_000

/** For the environment of a server that is to share this moment, some days later if wished. */
export const fixedClock = (daysLater = 0): { LOOM_CLOCK?: string } =>
  process.env.LOOM_CLOCK || daysLater !== 0
    ? { LOOM_CLOCK: new Date(now() + daysLater * DAY_MS).toISOString() }
    : {}
