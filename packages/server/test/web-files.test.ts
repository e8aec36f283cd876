import { expect } from 'chai'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { brotliCompressSync, brotliDecompressSync } from 'node:zlib'
import { webFiles } from '../src/http/web-files.ts'

describe('the built page', () => {
  const folder = mkdtempSync(join(tmpdir(), 'loom-page-'))
  const put = (name: string, bytes: string | Buffer): void => writeFileSync(join(folder, name), bytes)
  mkdirSync(join(folder, 'assets'))
  put('index.html', '<title>Amber Loom</title>')
  put('assets/first-a1.js', 'export const one = 1')
  put('assets/first-a1.js.br', brotliCompressSync('export const one = 1'))
  put('assets/letters-a1.woff2', 'letters')
  after(() => rmSync(folder, { recursive: true }))
  const files = webFiles(folder)

  it('is given compressed to whoever takes that, and for good where the name has the content in it', async () => {
    const answer = await files.request('/assets/first-a1.js', {
      headers: { 'Accept-Encoding': 'gzip, br;q=1' },
    })
    expect(answer.headers.get('content-encoding')).to.equal('br')
    expect(answer.headers.get('content-type')).to.match(/javascript/)
    expect(answer.headers.get('cache-control')).to.match(/immutable/)
    const bytes = Buffer.from(await answer.arrayBuffer())
    expect(brotliDecompressSync(bytes).toString()).to.equal('export const one = 1')
  })

  it('is given as it is to whoever does not, and where nothing is gained by it', async () => {
    const plain = await files.request('/assets/first-a1.js')
    expect(plain.headers.get('content-encoding')).to.equal(null)
    expect(await plain.text()).to.equal('export const one = 1')
    const letters = await files.request('/assets/letters-a1.woff2', { headers: { 'Accept-Encoding': 'br' } })
    expect(letters.headers.get('content-encoding')).to.equal(null)
    expect(letters.headers.get('content-type')).to.equal('font/woff2')
  })

  it('answers the addresses of its own views, and asks to be looked at again', async () => {
    const answer = await files.request('/rules/chains')
    expect(await answer.text()).to.contain('Amber Loom')
    expect(answer.headers.get('content-type')).to.match(/html/)
    expect(answer.headers.get('cache-control')).to.equal('no-cache')
  })

  it('says so where a part is asked for that an earlier page had', async () => {
    expect((await files.request('/assets/first-00.js')).status).to.equal(404)
  })

  it('gives nothing that lies beside it', async () => {
    for (const path of ['/../../etc/passwd', '/assets/..%2f..%2fetc/passwd', '/assets/first-a1.js.br'])
      expect(await (await files.request(path)).text(), path).to.not.match(/root:|export/)
  })

  it('is not served where it was never built', () => {
    expect(() => webFiles(join(folder, 'assets'))).to.throw(/npm run build/)
  })
})
