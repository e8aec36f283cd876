import { setTimeout as wait } from 'node:timers/promises'
import { CannotStart, type Config, readConfig } from './context/config.ts'
import { type Running, startServer } from './server.ts'
import { lastDoing } from './work/doing.ts'
import { forgetLastWords, leaveLastWords } from './work/last-words.ts'
import { watch } from './work/watchdog.ts'

/** Whatever is under way then is given up: what was confirmed stands, and the rest is done again. */
const STOP_MS = 8_000
/** EX_SOFTWARE: something of ours was wrong. Whoever started this starts it again. */
const CRASHED = 70
/** EX_CONFIG: starting it again would not help. */
const MISCONFIGURED = 78

let running: Running | null = null
let ending = false

async function end(code: number): Promise<void> {
  if (ending) return
  ending = true
  const stopped = running?.stop().catch((error: unknown) => {
    console.error('It could not be stopped in order:', error instanceof Error ? error.message : error)
  })
  await Promise.race([stopped, wait(STOP_MS)])
  process.exit(code)
}

let config: Config
try {
  config = readConfig(process.env)
} catch (error) {
  console.error(error instanceof CannotStart ? error.message : error)
  process.exit(MISCONFIGURED)
}
const { lastWords } = config

const crashed = (error: unknown): void => {
  const reason = error instanceof Error ? `${error.name}: ${error.message}`.slice(0, 500) : 'unknown'
  leaveLastWords(lastWords, { at: Date.now(), doing: lastDoing(), reason })
  if (running) running.ctx.log.fatal({ err: error, doing: lastDoing() }, 'an error that nobody caught')
  else console.error('It could not be started:', error)
  end(CRASHED).catch(() => process.exit(CRASHED))
}
process.on('uncaughtException', crashed)
process.on('unhandledRejection', crashed)
// `disconnect`: whoever started us is gone.
for (const signal of ['SIGINT', 'SIGTERM', 'disconnect'] as const)
  process.once(signal, () => {
    forgetLastWords(lastWords)
    end(0).catch(() => process.exit(1))
  })

try {
  watch(lastWords)
  running = await startServer(config)
  console.log(`Amber Loom on http://${config.host}:${running.port}/`)
  if (running.begin) console.log(`Begin here, once, within a day: ${running.begin}`)
} catch (error) {
  const sentence = error instanceof CannotStart ? error.message : null
  if (sentence === null) crashed(error)
  else {
    console.error(sentence)
    process.exit(error instanceof CannotStart && error.mayPass ? CRASHED : MISCONFIGURED)
  }
}
