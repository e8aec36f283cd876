import { expect } from 'chai'
import { ServiceError } from '../src/connector.ts'
import { Patience } from '../src/patience.ts'

/** How long one service is waited for. */
describe('patience with a service', () => {
  const timeout = new ServiceError('timeout', 'late')

  it('doubles with every answer that comes too late, up to a bound, and keeps writes shorter than a lease', async () => {
    const given: number[] = []
    const http = new Patience(4_000).through(async request => {
      given.push(request.timeoutMs ?? 0)
      throw timeout
    })
    for (const method of ['GET', 'PROPFIND', 'PUT', 'REPORT', 'GET', 'PATCH'])
      await http({ method, url: 'http://x' }).catch(() => undefined)
    expect(given).to.deep.equal([4_000, 8_000, 8_000, 20_000, 20_000, 8_000])
  })

  it('stays as it is for any other trouble, and where the one who asked stopped waiting', async () => {
    const given: number[] = []
    const patience = new Patience(4_000)
    const failing = (error: Error) =>
      patience.through(async request => {
        given.push(request.timeoutMs ?? 0)
        throw error
      })
    await failing(new ServiceError('unreachable', 'gone'))({ method: 'GET', url: 'http://x' }).catch(() => 0)
    const asked = { method: 'GET', url: 'http://x', signal: AbortSignal.abort() }
    await failing(timeout)(asked).catch(() => 0)
    await failing(timeout)({ method: 'GET', url: 'http://x' }).catch(() => 0)
    expect(given).to.deep.equal([4_000, 4_000, 4_000])
  })
})
