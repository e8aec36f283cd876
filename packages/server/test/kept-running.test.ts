import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { until } from './support/world.ts'

interface Kept {
  stop: () => Promise<void>
}
type KeptRunning = (part: {
  name: string
  args: string[]
  env: Record<string, string>
  careful?: Record<string, string>
  cwd: string
  say?: boolean
  gaveUp?: (code: number) => void
}) => Promise<Kept>

/** What the start command keeps running is started again, more carefully after a while, and ends with it. */
describe('a part that is kept running', function () {
  this.timeout(30_000)
  let folder = ''
  let keptRunning: KeptRunning
  const complaints = console.error
  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'loom-kept-'))
    // It writes down each start, and ends as it is told to.
    writeFileSync(
      join(folder, 'part.mjs'),
      `import { appendFileSync } from 'node:fs'
       appendFileSync(process.env.STARTS, process.pid + ' ' + (process.env.CAREFUL ?? 'no') + '\\n')
       console.log('ready')
       if (process.env.CODE) process.exit(Number(process.env.CODE))
       process.on('SIGTERM', () => process.env.DEAF || process.exit(0))
       setInterval(() => {}, 1000)`,
    )
    const path: string = '../../../scripts/kept-running.mjs'
    ;({ keptRunning } = (await import(path)) as { keptRunning: KeptRunning })
    console.error = () => undefined
  })
  after(() => {
    console.error = complaints
    rmSync(folder, { recursive: true })
  })

  const part = (name: string, env: Record<string, string> = {}, gaveUp?: (code: number) => void) => {
    const starts = join(folder, `${name}.txt`)
    writeFileSync(starts, '')
    return {
      kept: keptRunning({
        name,
        args: [join(folder, 'part.mjs')],
        env: { STARTS: starts, ...env },
        careful: { CAREFUL: 'yes' },
        cwd: folder,
        say: false,
        ...(gaveUp && { gaveUp }),
      }),
      starts: (): { pid: number; careful: string }[] =>
        readFileSync(starts, 'utf8')
          .trim()
          .split('\n')
          .filter(Boolean)
          .map(line => line.split(' '))
          .map(([pid, careful]) => ({ pid: Number(pid), careful: careful ?? '' })),
    }
  }
  const isAlive = (pid: number): boolean => {
    try {
      return process.kill(pid, 0)
    } catch {
      return false
    }
  }

  it('comes again after a SIGKILL, is careful after three in a minute, and ends when it is told to', async () => {
    const { kept, starts } = part('killed')
    const { stop } = await kept
    for (let n = 1; n <= 3; n++) {
      const last = await until(`start ${n}`, async () => starts()[n - 1])
      process.kill(last.pid, 'SIGKILL')
    }
    const careful = await until('it is started a fourth time', async () => starts()[3])
    expect(starts().map(s => s.careful)).to.deep.equal(['no', 'no', 'no', 'yes'])
    await stop()
    expect(isAlive(careful.pid)).to.equal(false)
    expect(starts()).to.have.length(4)
  })

  it('is given up where a setting is wrong', async () => {
    const codes: number[] = []
    const { starts } = part('misconfigured', { CODE: '78' }, code => codes.push(code))
    await until('it is given up', async () => codes.length === 1)
    expect(codes).to.deep.equal([78])
    expect(starts()).to.have.length(1)
  })
})
