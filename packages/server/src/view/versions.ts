import { randomBytes } from 'node:crypto'

/**
 * Remembers earlier versions of a set of JSON lines by key, so that a client that has one of them gets only what
 * changed since. Versions belong to this process: for an old or foreign version everything is given.
 */

/** Keys that have left are remembered up to here. */
const MOST_GONE = 5_000

export interface Since {
  version: string
  /** A JSON array in UTF-8: all lines, or those that are new or another than before. */
  lines: Uint8Array
  /** Keys that have left; null where `lines` are all there are. */
  gone: string[] | null
}

const arrayOf = (lines: readonly string[]): Uint8Array => Buffer.from(`[${lines.join(',')}]`)

export class Versions {
  private readonly name = randomBytes(6).toString('base64url')
  private at = 0
  /** The oldest version whose holder can be told what has changed. */
  private oldest = 1
  private readonly held = new Map<string, { line: string; since: number }>()
  private readonly gone = new Map<string, number>()
  private whole: Uint8Array | null = null

  /** Makes another version, if it is one. */
  put(lines: Iterable<readonly [key: string, line: string]>): void {
    const next = this.at + 1
    const left = new Set(this.held.keys())
    let changed = this.at === 0
    for (const [key, line] of lines) {
      left.delete(key)
      if (this.held.get(key)?.line === line) continue
      this.held.set(key, { line, since: next })
      this.gone.delete(key)
      changed = true
    }
    for (const key of left) {
      this.held.delete(key)
      this.gone.set(key, next)
    }
    if (changed || left.size > 0) this.become(next)
  }

  private become(next: number): void {
    this.at = next
    this.whole = null
    if (this.gone.size > MOST_GONE) {
      this.gone.clear()
      this.oldest = next
    }
  }

  /** Makes another version of these lines, without those that are gone and not among them. */
  change(lines: Iterable<readonly [key: string, line: string]>, gone: Iterable<string>): void {
    const next = this.at + 1
    const left = new Set(gone)
    let changed = false
    for (const [key, line] of lines) {
      left.delete(key)
      if (this.held.get(key)?.line === line) continue
      this.held.set(key, { line, since: next })
      this.gone.delete(key)
      changed = true
    }
    for (const key of left) {
      if (!this.held.delete(key)) continue
      this.gone.set(key, next)
      changed = true
    }
    if (changed) this.become(next)
  }

  since(version: string | undefined): Since {
    const now = `${this.name}.${this.at}`
    const [name, at] = version?.split('.') ?? []
    const n = Number(at)
    if (name !== this.name || !(n >= this.oldest && n <= this.at)) {
      this.whole ??= arrayOf([...this.held.values()].map(h => h.line))
      return { version: now, lines: this.whole, gone: null }
    }
    const lines: string[] = []
    const gone: string[] = []
    if (n < this.at) {
      for (const { line, since } of this.held.values()) if (since > n) lines.push(line)
      for (const [key, since] of this.gone) if (since > n) gone.push(key)
    }
    return { version: now, lines: arrayOf(lines), gone }
  }
}
