import { readConfig } from './config.ts'
import { startServer } from './server.ts'

const running = await startServer(readConfig(process.env))
console.log(`Amber Loom on http://127.0.0.1:${running.port}/`)
// `disconnect`: whoever started us is gone.
for (const signal of ['SIGINT', 'SIGTERM', 'disconnect'] as const)
  process.once(signal, () => void running.stop().then(() => process.exit(0)))
