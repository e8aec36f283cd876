import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { expect } from 'chai'
import { ServiceError } from '../src/connector.ts'
import { outbound } from '../src/outbound.ts'

describe('the one way out', () => {
  let server: Server
  let host: string

  before(async () => {
    server = createServer((request, response) => {
      if (request.url === '/half') response.write('half an answer, and then')
    })
    await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
    host = `127.0.0.1:${(server.address() as AddressInfo).port}`
  })

  after(() => {
    server.closeAllConnections()
    server.close()
  })

  const troubleOf = async (asked: Promise<unknown>): Promise<ServiceError> => {
    try {
      await asked
    } catch (error) {
      if (error instanceof ServiceError) return error
      throw error
    }
    throw new Error('It was answered.')
  }

  for (const path of ['/none', '/half'])
    it(`keeps its deadline at ${path}, and names it even where the one who asked gave up as well`, async () => {
      const http = outbound({ allowed: [host], timeoutMs: 1000, maxBytes: 1000 })
      const signal = AbortSignal.timeout(1050)
      const asked = troubleOf(http({ method: 'GET', url: `http://${host}${path}`, signal }))
      // As when the machine stood still for so long that both clocks ran out at once.
      const until = Date.now() + 1200
      await new Promise(done => setTimeout(done, 50))
      while (Date.now() < until);
      expect((await asked).message).to.match(/did not answer within 1 seconds/)
    })

  it('stops at once when it is told to', async () => {
    const http = outbound({ allowed: [host], timeoutMs: 5000, maxBytes: 1000 })
    const stop = new AbortController()
    const started = Date.now()
    const asked = troubleOf(http({ method: 'GET', url: `http://${host}/none`, signal: stop.signal }))
    setTimeout(() => stop.abort(), 50)
    expect((await asked).message).to.match(/did not answer in time/)
    expect(Date.now() - started).to.be.lessThan(2000)
    const before = troubleOf(http({ method: 'GET', url: `http://${host}/none`, signal: stop.signal }))
    expect((await before).trouble).to.equal('timeout')
  })
})
