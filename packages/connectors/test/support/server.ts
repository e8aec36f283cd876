import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'

/** Small servers with habits of their own, for one test each. */
export interface Asked {
  method: string
  path: string
  query: URLSearchParams
  header: (name: string) => string
  body: string
}

export interface Answered {
  status?: number
  headers?: Record<string, string>
  body?: string | Buffer
}

const servers: Server[] = []

const bodyOf = async (q: IncomingMessage): Promise<string> => {
  const chunks: Buffer[] = []
  for await (const chunk of q) chunks.push(chunk as Buffer)
  return Buffer.concat(chunks).toString('utf8')
}

/** Returns `127.0.0.1:port`. */
export async function serve(handle: (asked: Asked, raw: ServerResponse) => Answered | null): Promise<string> {
  const server = createServer((q, a) => {
    void bodyOf(q).then(body => {
      const url = new URL(q.url ?? '/', 'http://x')
      const header = (name: string): string => String(q.headers[name.toLowerCase()] ?? '')
      const asked = { method: q.method ?? '', path: url.pathname, query: url.searchParams, header, body }
      const answer = handle(asked, a)
      if (answer) a.writeHead(answer.status ?? 200, answer.headers).end(answer.body)
    })
  })
  servers.push(server)
  await new Promise<void>(resolve => server.listen(0, '127.0.0.1', resolve))
  return `127.0.0.1:${(server.address() as AddressInfo).port}`
}

export function closeServers(): void {
  for (const server of servers.splice(0)) {
    server.closeAllConnections()
    server.close()
  }
}
