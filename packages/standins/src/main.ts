import { listen } from './index.ts'

const port = Number(process.env.STANDINS_PORT ?? 4100)
const mailPort = Number(process.env.STANDINS_MAIL_PORT ?? 0)
const size = process.env.STANDINS_SIZE === 'small' ? 'small' : 'whole'
const running = await listen(process.env.STANDINS_DATA ?? '.data/standins', port, mailPort, size)
console.log(`Stand-ins on http://127.0.0.1:${running.port}/`)
// `disconnect`: whoever started us is gone.
for (const signal of ['SIGINT', 'SIGTERM', 'disconnect'] as const)
  process.once(signal, () => {
    running.close().then(
      () => process.exit(0),
      () => process.exit(1),
    )
  })
