/**
 * The same pages, each requested while the one before is processed. For pages that do not depend on that
 * processing.
 */
export async function* readAhead<T>(pages: AsyncIterable<T>): AsyncGenerator<T> {
  const source = pages[Symbol.asyncIterator]()
  const ask = (): Promise<IteratorResult<T>> => {
    const asked = source.next()
    // It is awaited below, after the page before it; by then it may have failed.
    asked.catch(() => undefined)
    return asked
  }
  let next = ask()
  try {
    for (;;) {
      const { done, value } = await next
      if (done) return
      next = ask()
      yield value
    }
  } finally {
    await source.return?.()
  }
}
