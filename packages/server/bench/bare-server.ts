import { createServer } from 'node:http'

/** Answers each request with as many bytes, kept in memory: what any server on this machine takes at least. */
const bytes = Buffer.alloc(Number(process.argv[2]), 'x')
createServer((_, answer) => {
  answer.writeHead(200, { 'Content-Type': 'application/json', 'Content-Length': bytes.length })
  answer.end(bytes)
}).listen(Number(process.argv[3]), '127.0.0.1', () => process.send?.('ready'))
