import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect } from 'chai'
import { draftOf, keep } from './support/connecting.ts'
import { startWorld, type World } from './support/world.ts'

/** A service that sends on to another server: nobody's key goes there before they agree to it by name. */
describe('a service that sends on to another server', function () {
  this.timeout(60_000)
  let w: World
  const open: Server[] = []

  /** Sends everything on to what `to` says; remembers the keys that it was shown. */
  async function sendingOn(to: () => string): Promise<{ origin: string; keys: string[] }> {
    const keys: string[] = []
    const server = createServer((q, a) => {
      if (q.headers.authorization) keys.push(q.headers.authorization)
      a.writeHead(307, { Location: to() + (q.url ?? '') }).end()
    })
    open.push(server)
    await new Promise<void>(resolve => server.listen(0, '127.0.0.1', () => resolve()))
    return { origin: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, keys }
  }
  let target = ''
  let first: Awaited<ReturnType<typeof sendingOn>>
  let second: Awaited<ReturnType<typeof sendingOn>>

  before(async () => {
    first = await sendingOn(() => target)
    second = await sendingOn(() => w.standins)
    w = await startWorld({ allow: [first, second].map(s => new URL(s.origin).host) })
    target = w.standins
  })
  after(async () => {
    for (const server of open) {
      server.closeAllConnections()
      server.close()
    }
    await w.close()
  })

  it('asks for it by name when it is connected, and again when it sends elsewhere later', async () => {
    const begin = (alsoAt?: string[]) =>
      w.client.call('POST', '/connecting/drafts', {
        service: 'bench-list',
        address: `${first.origin}/bench`,
        key: 'bench-key-ines',
        ...(alsoAt && { alsoAt }),
      })
    const asked = await begin()
    expect([asked.status, asked.body.alsoAt]).to.deep.equal([422, w.standins])
    const begun = await begin([w.standins])
    expect(begun.status).to.equal(201)
    const id = await keep(w, await draftOf(w, begun.body.draft), { name: 'Sent on' })

    const again = (alsoAt?: string[]) =>
      w.client.call('PUT', `/connections/${id}/credentials`, {
        key: 'bench-key-ines',
        ...(alsoAt && { alsoAt }),
      })
    expect((await again()).status, 'what was agreed to still is').to.equal(200)
    target = second.origin
    const other = await again()
    expect([other.status, other.body.alsoAt, second.keys.length]).to.deep.equal([422, second.origin, 0])
    expect((await again([second.origin])).status).to.equal(200)
    expect(second.keys.length).to.be.greaterThan(0)
    expect((await again()).status, 'and is kept').to.equal(200)
  })
})
