import { setTimeout as wait } from 'node:timers/promises'
import type { Logger } from 'pino'

/**
 * Work that nobody waits for: reading ahead, planning, renewing, notifying. It has a name. Its failure is always
 * logged and never ends the process. All work under way can be awaited at the end. Only this file starts work
 * without waiting for it.
 */
export class Background {
  private readonly running = new Set<Promise<void>>()
  private readonly timers = new Set<NodeJS.Timeout>()
  private readonly stopping = new AbortController()

  constructor(private readonly log: Logger) {}

  get isStopped(): boolean {
    return this.stopping.signal.aborted
  }

  /** Starts it now. `failed` is told of an error, after it was logged. */
  run(name: string, work: () => Promise<unknown>, failed?: (error: unknown) => Promise<unknown>): void {
    if (this.isStopped) return
    const going = this.guarded(name, work, failed).then(() => {
      this.running.delete(going)
    })
    this.running.add(going)
  }

  /** Runs it every so often, never twice at a time. */
  every(name: string, ms: number, work: () => Promise<unknown>): () => void {
    if (this.isStopped) return () => undefined
    let isRunning = false
    const timer = setInterval(() => {
      if (isRunning) return
      isRunning = true
      this.run(name, async () => {
        try {
          await work()
        } finally {
          isRunning = false
        }
      })
    }, ms)
    this.timers.add(timer)
    return () => {
      clearInterval(timer)
      this.timers.delete(timer)
    }
  }

  /** Sleeps, and wakes when everything is to end. */
  async pause(ms: number): Promise<void> {
    await wait(ms, undefined, { signal: this.stopping.signal, ref: false }).catch((error: unknown) => {
      if (!this.isStopped) throw error
    })
  }

  /** Starts nothing more, and waits for what is under way. */
  async stop(): Promise<void> {
    this.stopping.abort()
    for (const timer of this.timers) clearInterval(timer)
    await Promise.all(this.running)
  }

  private async guarded(
    name: string,
    work: () => Promise<unknown>,
    failed?: (error: unknown) => Promise<unknown>,
  ): Promise<void> {
    try {
      await work()
    } catch (error) {
      this.log.error({ err: error, work: name }, 'background work failed')
      if (!failed) return
      try {
        await failed(error)
      } catch (again) {
        this.log.error({ err: again, work: name }, 'its failure could not be written down')
      }
    }
  }
}
