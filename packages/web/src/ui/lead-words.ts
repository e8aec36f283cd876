import { durationWords } from '@loom/core/view'

/** How long before something one is reminded of it, as it is chosen and said. */

const LEADS = [0, 5, 10, 15, 30, 60, 120, 1440]
export const NEVER = -1

export const leadWords = (minutes: number | null): string =>
  minutes === null ? 'never' : minutes === 0 ? 'when it begins' : `${lengthWords(minutes)} before`

/** A day is a day, and not a number of working hours. */
const lengthWords = (minutes: number): string =>
  minutes % 1440 === 0 ? (minutes === 1440 ? '1 day' : `${minutes / 1440} days`) : durationWords(minutes)

/** @param now what is set, which stays among them. @param atZero what 0 is called */
export function leadChoices(
  now: number | null,
  atZero = 'when it begins',
): { value: number; label: string }[] {
  const all = [...new Set([...LEADS, ...(now === null ? [] : [now])])].sort((x, y) => x - y)
  return [
    { value: NEVER, label: 'never' },
    ...all.map(value => ({ value, label: value === 0 ? atZero : leadWords(value) })),
  ]
}
