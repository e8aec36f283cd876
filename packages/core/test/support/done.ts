/** What a reading that gives others their turn comes to. */
export function done<T>(reading: Generator<null, T>): T {
  for (;;) {
    const step = reading.next()
    if (step.done) return step.value
  }
}
