import { createServer, type Server } from 'node:http'
import { type AddressInfo, createServer as createSocketServer, type Socket } from 'node:net'
import { gzipSync } from 'node:zlib'
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

  /** What servers send that follow older or other habits than ours, byte by byte. */
  const BIG = 'ä'.repeat(300_000)
  const zipped = gzipSync(BIG)
  const chunked = (text: Buffer, size: number): Buffer[] => {
    const parts: Buffer[] = []
    for (let at = 0; at < text.length; at += size) {
      const part = text.subarray(at, at + size)
      parts.push(Buffer.from(`${part.length.toString(16)}\r\n`), part, Buffer.from('\r\n'))
    }
    return [...parts, Buffer.from('0\r\n\r\n')]
  }
  const send = async (socket: Socket, parts: (string | Buffer)[], everyMs = 0): Promise<void> => {
    for (const part of parts) {
      socket.write(part)
      if (everyMs > 0) await new Promise(done => setTimeout(done, everyMs))
    }
  }
  const body = Buffer.from(BIG)
  const slices = (n: number): Buffer[] =>
    Array.from({ length: n }, (_, i) =>
      body.subarray(Math.floor((i * body.length) / n), Math.floor(((i + 1) * body.length) / n)),
    )
  const good: Record<string, (socket: Socket) => Promise<unknown>> = {
    'HTTP/1.0, ended by closing': s =>
      send(s, ['HTTP/1.0 207 Multi-Status\r\n\r\n', body]).then(() => s.end()),
    'HTTP/1.1, ended by closing': s =>
      send(s, ['HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n', ...slices(40)], 1).then(() => s.end()),
    'closing without a word': s => send(s, ['HTTP/1.1 200 OK\r\n\r\n', body]).then(() => s.end()),
    'chunks of odd sizes': s =>
      send(s, ['HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\n', ...chunked(body, 7001)]),
    'slowly, in the middle of letters': s =>
      send(s, [`HTTP/1.1 200 OK\r\nContent-Length: ${body.length}\r\n\r\n`, ...slices(7)], 40),
    'gzip over HTTP/1.0': s =>
      send(s, ['HTTP/1.0 200 OK\r\nContent-Encoding: gzip\r\n\r\n', zipped]).then(() => s.end()),
    'gzip in chunks': s =>
      send(s, [
        'HTTP/1.1 200 OK\r\nContent-Encoding: gzip\r\nTransfer-Encoding: chunked\r\n\r\n',
        ...chunked(zipped, 100),
      ]),
  }
  const short: typeof good = {
    'shorter than it said': s =>
      send(s, [`HTTP/1.1 200 OK\r\nContent-Length: ${body.length + 1}\r\n\r\n`, body]).then(() => s.end()),
    'chunks without their end': s =>
      send(s, [
        'HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\n',
        ...chunked(body, 9000).slice(0, -1),
      ]).then(() => s.end()),
    'gzip that breaks off': s =>
      send(s, ['HTTP/1.0 200 OK\r\nContent-Encoding: gzip\r\n\r\n', zipped.subarray(0, 400)]).then(() =>
        s.end(),
      ),
    'no HTTP at all': s => send(s, [body]).then(() => s.end()),
    'a gzip that unpacks to more than is sensible': s =>
      send(s, ['HTTP/1.0 200 OK\r\nContent-Encoding: gzip\r\n\r\n', gzipSync(Buffer.alloc(20_000_000))]).then(
        () => s.end(),
      ),
  }
  const answered = async (play: (socket: Socket) => Promise<unknown>): Promise<string> => {
    const odd = createSocketServer(socket => {
      socket.on('error', () => undefined)
      socket.once('data', () => void play(socket))
    })
    await new Promise<void>(done => odd.listen(0, '127.0.0.1', done))
    const at = `127.0.0.1:${(odd.address() as AddressInfo).port}`
    try {
      const http = outbound({ allowed: [at], timeoutMs: 3000, maxBytes: 2_000_000 })
      return (await http({ method: 'PROPFIND', url: `http://${at}/`, body: '<x/>' })).text
    } finally {
      odd.close()
    }
  }
  for (const [how, play] of Object.entries(good))
    it(`reads ${how}`, async () => {
      expect((await answered(play)) === BIG, 'the whole of it').to.equal(true)
    })
  for (const [how, play] of Object.entries(short))
    it(`takes nothing for whole that is ${how}`, async () => {
      expect((await troubleOf(answered(play))).trouble).to.be.oneOf([
        'unreachable',
        'service-error',
        'too-large',
      ])
    })
})
