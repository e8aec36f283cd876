/**
 * What this process is working on, in memory that the watchdog shares: should it come to hang or end, that can be
 * named. Ids alone stand here, no titles.
 */
const LENGTH = 200
/** [0]: heartbeats; [1]: how long the text is. */
const HEAD = 8

export const shared = new SharedArrayBuffer(HEAD + LENGTH)
const head = new Int32Array(shared, 0, 2)
const text = new Uint8Array(shared, HEAD, LENGTH)
const encoder = new TextEncoder()

/** `connection:…`, `rule:…` or `item:…`. */
export function nowDoing(what: `${'connection' | 'rule' | 'item'}:${string}`): void {
  head[1] = encoder.encodeInto(what, text).written
}

export function lastDoing(): string {
  return Buffer.from(text.subarray(0, head[1])).toString('utf8')
}

export const beat = (): void => void Atomics.add(head, 0, 1)
