/** Text from outside that cannot be taken for what it should be; the message is a sentence for people. */
export class NotUnderstood extends Error {}

/** What came of reading something from outside. */
export type Understood<T> = { kind: 'understood'; value: T } | { kind: 'not-understood'; because: string }

const MOST_REASON = 300

/**
 * Runs what reads text from outside and never throws: libraries read values late, and fail with errors of their own.
 * `because` is a sentence.
 */
export function understand<T>(read: () => T): Understood<T> {
  try {
    return { kind: 'understood', value: read() }
  } catch (error) {
    if (error instanceof NotUnderstood) return { kind: 'not-understood', because: error.message }
    const what =
      error instanceof RangeError && /call stack/i.test(error.message) ? 'it is nested too deeply' : ''
    const said = what || (error instanceof Error ? error.message : String(error))
    return { kind: 'not-understood', because: `It cannot be read: ${said.slice(0, MOST_REASON)}` }
  }
}

/** The value, or `otherwise` where it is not understood. */
export function understoodOr<T, O>(read: () => T, otherwise: O): T | O {
  const result = understand(read)
  return result.kind === 'understood' ? result.value : otherwise
}
