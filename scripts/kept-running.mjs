// A part of the product that is started again when it ends by itself, and is ended with everything it holds.
import { spawn } from 'node:child_process'
import { createInterface } from 'node:readline'

const STOP_MS = 10_000
const FIRST_WAIT_MS = 300
const MOST_WAIT_MS = 10_000
const CRASHES = 3
const WITHIN_MS = 60_000
/** EX_CONFIG: a setting is wrong, and starting again would not help. */
const MISCONFIGURED = 78

/** Ends a child, by force where it does not obey in time. */
export function ended(child, ms = STOP_MS) {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve()
  return new Promise(done => {
    const force = setTimeout(() => child.kill('SIGKILL'), ms)
    child.once('exit', () => {
      clearTimeout(force)
      done()
    })
    child.kill('SIGTERM')
  })
}

/**
 * Starts it, and again whenever it ends. After three ends within a minute it is started with `careful` added to its
 * environment. `gaveUp` is called where that would not help. Where `say` is not set, only what `tell` (a pattern) finds
 * in its output is passed on. Resolves once its first line has come: `{ stop }`.
 */
export function keptRunning({ name, args, env, careful = {}, cwd, say = true, tell, gaveUp }) {
  let child = null
  let stopping = false
  let wait = FIRST_WAIT_MS
  let ends = []
  let again = null
  return new Promise(ready => {
    const start = () => {
      ends = ends.filter(at => Date.now() - at < WITHIN_MS)
      const isCareful = ends.length >= CRASHES
      if (isCareful) console.error(`${name} has ended ${ends.length} times within a minute.`)
      const startedAt = Date.now()
      child = spawn(process.execPath, args, {
        cwd,
        env: { ...process.env, ...env, ...(isCareful ? careful : {}) },
        stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
        detached: true,
      })
      child.stdout.once('data', () =>
        ready({ stop: () => ((stopping = true), clearTimeout(again), ended(child)) }),
      )
      if (say) child.stdout.pipe(process.stdout, { end: false })
      else if (tell)
        createInterface({ input: child.stdout }).on('line', line => {
          const [told] = tell.exec(line) ?? []
          if (told) console.log(told)
        })
      else child.stdout.resume()
      child.once('exit', (code, signal) => {
        if (stopping) return
        if (code === MISCONFIGURED) return gaveUp(code)
        ends.push(Date.now())
        if (Date.now() - startedAt > WITHIN_MS) wait = FIRST_WAIT_MS
        console.error(
          `${name} ended (${signal ?? code}). It is started again in ${(wait / 1000).toFixed(1)} s.`,
        )
        again = setTimeout(start, wait)
        wait = Math.min(MOST_WAIT_MS, wait * 2)
      })
    }
    start()
  })
}
