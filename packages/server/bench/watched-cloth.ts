import { setTimeout as wait } from 'node:timers/promises'

/** As long as the page waits for more before it asks. */
const SETTLE_MS = 30

/** A Cloth that somebody has open, without the page: told of changes as the page is, it asks as the page asks. */
export class WatchedCloth {
  private readonly leave = new AbortController()
  private onChange: () => void = () => undefined
  /** Of what it has already. */
  private version = ''

  private constructor(
    private readonly base: string,
    private readonly headers: { Cookie: string },
    private readonly week: string,
  ) {}

  static async open(base: string, cookie: string, week: string): Promise<WatchedCloth> {
    const cloth = new WatchedCloth(base, { Cookie: cookie }, week)
    const answer = await fetch(`${base}/api/live`, { headers: cloth.headers, signal: cloth.leave.signal })
    void cloth.listen(answer)
    return cloth
  }

  private async listen(answer: Response): Promise<void> {
    const told = new TextDecoder()
    try {
      for await (const chunk of answer.body ?? [])
        if (told.decode(chunk as Uint8Array, { stream: true }).includes('"cloth"')) this.onChange()
    } catch {
      // It was closed.
    }
  }

  /** Resolves when the week holds this text, ms by `performance.now()`. */
  shows(text: string): Promise<number> {
    return new Promise(done => {
      let asking: Promise<void> = Promise.resolve()
      let found = false
      this.onChange = () => {
        asking = asking.then(async () => {
          await wait(SETTLE_MS)
          if (found) return
          const have = this.version === '' ? '' : `&have=${this.version}`
          const answer = await fetch(`${this.base}/api/cloth?from=${this.week}&days=7${have}`, {
            headers: this.headers,
          })
          const told = await answer.text()
          this.version = /"version":"([^"]+)"/.exec(told)?.[1] ?? ''
          if (!told.includes(text)) return
          found = true
          done(performance.now())
        })
      }
    })
  }

  close(): void {
    this.leave.abort()
  }
}
