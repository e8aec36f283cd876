import { expect } from 'chai'
import { setImmediate as turn } from 'node:timers/promises'
import { readAhead } from '../src/sync/pull/read-ahead.ts'

describe('reading ahead', () => {
  const log: string[] = []
  async function* pages(failsAt = Infinity): AsyncGenerator<number> {
    try {
      for (let n = 1; n <= 4; n++) {
        log.push(`asked ${n}`)
        await turn()
        if (n === failsAt) throw new Error('the service is gone')
        yield n
      }
    } finally {
      log.push('closed')
    }
  }
  beforeEach(() => (log.length = 0))

  it('asks for a page while the one before is worked on, for one only, and gives all in order', async () => {
    for await (const page of readAhead(pages())) {
      log.push(`begun ${page}`)
      for (let n = 0; n < 5; n++) await turn()
      log.push(`done ${page}`)
    }
    expect(log.join(', ')).to.equal(
      'asked 1, asked 2, begun 1, done 1, asked 3, begun 2, done 2, asked 4, begun 3, done 3, closed, begun 4, done 4',
    )
  })

  it('closes its source when whoever reads stops, and when they fail', async () => {
    for await (const page of readAhead(pages())) if (page === 2) break
    expect(log.at(-1)).to.equal('closed')
    const failed = async (): Promise<void> => {
      for await (const page of readAhead(pages())) throw new Error(`at ${page}`)
    }
    log.length = 0
    expect(await failed().catch((e: unknown) => (e as Error).message)).to.equal('at 1')
    expect(log.at(-1)).to.equal('closed')
  })

  it('tells of a failure after the pages before it, and leaves none unwatched', async () => {
    const unwatched: unknown[] = []
    const hear = (error: unknown): void => void unwatched.push(error)
    process.on('unhandledRejection', hear)
    const read: number[] = []
    const all = async (): Promise<void> => {
      for await (const page of readAhead(pages(3))) {
        for (let n = 0; n < 5; n++) await turn()
        read.push(page)
      }
    }
    expect(await all().catch((e: unknown) => (e as Error).message)).to.equal('the service is gone')
    for await (const page of readAhead(pages(2))) {
      for (let n = 0; n < 5; n++) await turn()
      if (page === 1) break
    }
    await turn()
    process.off('unhandledRejection', hear)
    expect(read).to.deep.equal([1, 2])
    expect(unwatched).to.deep.equal([])
  })
})
