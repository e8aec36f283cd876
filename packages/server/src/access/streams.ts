/** Streams that are open, by session: each ends with its session, and one session has only so many. */
const MOST = 12

export class Streams {
  private readonly open = new Map<string, Set<() => void>>()

  /** `close` is called when the session ends, or has opened too many after this one. Returns how to say that it is closed. */
  add(session: string, close: () => void): () => void {
    const streams = this.open.get(session) ?? new Set()
    this.open.set(session, streams.add(close))
    const [oldest] = streams
    if (streams.size > MOST && oldest) {
      streams.delete(oldest)
      oldest()
    }
    return () => {
      streams.delete(close)
      if (streams.size === 0) this.open.delete(session)
    }
  }

  end(session: string): void {
    for (const close of this.open.get(session) ?? []) close()
    this.open.delete(session)
  }
}
