// npm test: all set-up it needs, then everything: types, lint, unit, integration, journeys.
// npm test -- core server    runs only the tests of the packages named (set-up included).
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { startDatabase } from './database.mjs'
import { checkNode, dataFolder, ensureDebian, ensureNpm, root, secretsIn } from './setup.mjs'
import { freePort } from './free-port.mjs'

const only = process.argv.slice(2)
const PARTS = ['core', 'connectors', 'standins', 'web', 'server', 'days', 'e2e']
// A name that nothing has would run nothing, and call it good.
const unknown = only.filter(part => !PARTS.includes(part))
if (unknown.length > 0) {
  console.error(`There is no part called ${unknown.join(', ')}: ${PARTS.join(', ')}.`)
  process.exit(2)
}

checkNode()
ensureDebian(['mariadb-server', 'chromium'])
ensureNpm()

const folder = join(dataFolder, 'test')
const secrets = secretsIn(folder)
const database = await startDatabase({
  folder: join(folder, 'mariadb'),
  port: await freePort(),
  password: secrets.database,
})
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => database.stop().then(() => process.exit(1)))

const failed = []
/** A step that takes longer has hung: it fails, and the run goes on. */
const STEP_MS = 40 * 60_000
/** Monday 00:05, a Saturday, Sunday 23:50, both clock changes in Dublin, 29 February, New Year's Eve. */
const MOMENTS = [
  '2026-11-30T00:05:00Z',
  '2026-12-05T12:00:00Z',
  '2026-12-06T23:50:00Z',
  '2027-03-28T00:30:00Z',
  '2027-10-31T00:30:00Z',
  '2028-02-29T12:00:00Z',
  '2026-12-31T23:30:00Z',
]

/** Runs one step; the others go on, so that one run tells everything. What a step beside another says is told at its end. */
async function step(name, command, args, { beside = false, env = {} } = {}) {
  const started = Date.now()
  if (!beside) console.log(`\n— ${name}`)
  const child = spawn(command, args, {
    cwd: root,
    stdio: beside ? ['ignore', 'pipe', 'pipe'] : 'inherit',
    env: { ...process.env, TEST_DATABASE_URL: database.url, npm_config_loglevel: 'error', ...env },
    timeout: STEP_MS,
    killSignal: 'SIGKILL',
  })
  const said = []
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', part => said.push(part))
  const status = await new Promise(done => {
    child.once('error', error => {
      said.push(Buffer.from(`${error}\n`))
      done(1)
    })
    child.once('close', done)
  })
  if (beside) console.log(`\n— ${name}\n${Buffer.concat(said)}`)
  console.log(`  ${status === 0 ? 'good' : 'FAILED'}, ${((Date.now() - started) / 1000).toFixed(1)} s`)
  if (status !== 0) failed.push(name)
}
const DAYS = ['series', 'views'].map(name => `packages/server/test/${name}.test.ts`)
const bin = name => join(root, 'node_modules/.bin', name)
const tests = part => `packages/${part}/${part === 'e2e' ? 'journeys' : 'test'}/**/*.test.ts`
const mocha = async (name, ...parts) => {
  const wanted = parts.filter(p => only.length === 0 || only.includes(p))
  if (wanted.length > 0) await step(name, bin('mocha'), wanted.map(tests))
}

async function statics() {
  if (only.length > 0) return
  const beside = { beside: true }
  await step('types', bin('tsc'), ['--noEmit', '-p', 'tsconfig.json'], beside)
  await step(
    'types of the interface',
    bin('vue-tsc'),
    ['--noEmit', '-p', 'packages/web/tsconfig.json'],
    beside,
  )
  await step('lint', bin('eslint'), ['.', '--max-warnings', '0'], beside)
  await step('order of the house', process.execPath, ['scripts/house.mjs'], beside)
  await step('format', bin('prettier'), ['--check', '--log-level', 'warn', '.'], beside)
}

/** What knows days, at moments that are odd for it; the rest of the run goes by the machine's clock. */
async function daysAtMoments() {
  if (only.length > 0 && !only.includes('days')) return
  const moments = [...MOMENTS]
  const next = async () => {
    for (let at = moments.shift(); at; at = moments.shift())
      await step(`days at ${at}`, bin('mocha'), ['--grep', '@days', ...DAYS], {
        beside: true,
        env: { LOOM_CLOCK: at },
      })
  }
  await Promise.all([next(), next()])
}

/** Components with logic, in a DOM without a browser. */
async function components() {
  if (only.length > 0 && !only.includes('web')) return
  const dom = ['--import', 'tsx', '--import', './packages/web/test/dom/setup.mjs']
  const mochas = join(root, 'node_modules/mocha/lib/cli/cli.js')
  const args = [...dom, mochas, '--exit', 'packages/web/test/dom/*.dom.ts']
  await step('components', process.execPath, args, { beside: true })
}

// What only computes goes beside each other, on two cores; what measures and waits has the machine for itself.
await Promise.all([
  statics(),
  mocha('core, connectors, stand-ins, interface', 'core', 'connectors', 'standins', 'web').then(components),
])
await mocha('server against MariaDB and the stand-ins', 'server')
await daysAtMoments()
if (only.length === 0 || only.includes('e2e')) await step('build', 'npm', ['run', 'build', '--silent'])
await mocha('journeys in Chromium', 'e2e')

await database.stop()
console.log(failed.length === 0 ? '\nAll good.' : `\nFailed: ${failed.join(', ')}.`)
process.exit(failed.length === 0 ? 0 : 1)
