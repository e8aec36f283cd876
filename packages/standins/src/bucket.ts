/** So many requests at once, then so many a second. */
export class Bucket {
  private tokens: number
  private at = Date.now()

  constructor(
    private readonly most: number,
    private readonly perSecond: number,
  ) {
    this.tokens = most
  }

  take(): boolean {
    const at = Date.now()
    this.tokens = Math.min(this.most, this.tokens + ((at - this.at) / 1000) * this.perSecond)
    this.at = at
    if (this.tokens < 1) return false
    this.tokens--
    return true
  }
}

/** One bucket for each client. */
export function buckets(most: number, perSecond: number): (client: string) => boolean {
  const all = new Map<string, Bucket>()
  return client => {
    const bucket = all.get(client) ?? new Bucket(most, perSecond)
    all.set(client, bucket)
    return bucket.take()
  }
}
