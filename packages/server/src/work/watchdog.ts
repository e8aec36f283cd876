import { Worker } from 'node:worker_threads'
import { beat, shared } from './doing.ts'

/**
 * Ends this process if its event loop stands still: it would answer nobody and obey no signal, and its starter can
 * start it again. It counts its own turns, so that a machine that was asleep does not count.
 */
const BEAT_MS = 500
/** Heartbeats that may be missing: eight seconds. */
const MOST_MISSED = 16

/** Plain JavaScript: it is run as it stands, in a thread of its own. */
const SOURCE = `
const { workerData } = require('node:worker_threads')
const { writeFileSync } = require('node:fs')
const { shared, file, beatMs, most } = workerData
const head = new Int32Array(shared, 0, 2)
const text = new Uint8Array(shared, 8)
let seen = -1, missed = 0
setInterval(() => {
  const now = Atomics.load(head, 0)
  missed = now === seen ? missed + 1 : 0
  seen = now
  if (missed < most) return
  const doing = Buffer.from(text.slice(0, head[1])).toString('utf8')
  const words = { at: Date.now(), doing, reason: 'It did not answer for ' + (most * beatMs) / 1000 + ' seconds.' }
  try {
    if (file) writeFileSync(file, JSON.stringify(words), { mode: 0o600 })
  } catch (error) {
    process.stderr.write('last words could not be kept: ' + error.message + '\\n')
  }
  process.stderr.write('hangs: ' + doing + '\\n')
  process.kill(process.pid, 'SIGKILL')
}, beatMs)
`

/** @param file where its last words go */
export function watch(file: string | null): () => Promise<void> {
  const timer = setInterval(beat, BEAT_MS)
  timer.unref()
  const worker = new Worker(SOURCE, {
    eval: true,
    workerData: { shared, file, beatMs: BEAT_MS, most: MOST_MISSED },
    execArgv: [],
  })
  worker.unref()
  return async () => {
    clearInterval(timer)
    await worker.terminate()
  }
}
