import { createServer } from 'node:net'

// Below 32768: from there on the system takes ports for connections that go out, also one that was free a moment ago.
const [FIRST, LAST] = [12_000, 32_000]

/** A port of this machine on which nobody listens. */
export async function freePort() {
  for (;;) {
    const port = FIRST + Math.floor(Math.random() * (LAST - FIRST))
    if (await isFree(port)) return port
  }
}

export const isFree = port =>
  new Promise(done => {
    const probe = createServer()
    probe.once('error', () => done(false))
    probe.listen(port, '127.0.0.1', () => probe.close(() => done(true)))
  })
