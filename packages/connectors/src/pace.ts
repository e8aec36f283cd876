/** Keeps to so many requests in so many seconds, by waiting. Shared by everything that speaks to one account. */
export class Pace {
  private tokens: number
  private at = Date.now()
  private last: Promise<void> = Promise.resolve()

  constructor(
    private readonly requests: number,
    private readonly perSeconds: number,
  ) {
    this.tokens = requests
  }

  /** Resolves when it is this request's turn; first come, first served. */
  turn(): Promise<void> {
    this.last = this.last.then(() => this.one())
    return this.last
  }

  private async one(): Promise<void> {
    const perMs = this.requests / (this.perSeconds * 1000)
    const refill = (): void => {
      const now = Date.now()
      this.tokens = Math.min(this.requests, this.tokens + (now - this.at) * perMs)
      this.at = now
    }
    refill()
    if (this.tokens < 1) {
      await new Promise(resolve => setTimeout(resolve, Math.ceil((1 - this.tokens) / perMs)))
      refill()
    }
    this.tokens--
  }
}
