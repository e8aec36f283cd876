// npm start: from a fresh machine to the running product with its demo; -- --fresh resets the demo.
// npm start -- --empty: without the demo, in data of its own. So is any start with DATABASE_URL and without LOOM_DEMO.
import { spawn, spawnSync } from 'node:child_process'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { databaseFolder, endLeftover, startDatabase } from './database.mjs'
import { ended, keptRunning } from './kept-running.mjs'
import { nodeFlags } from './node-flags.mjs'
import {
  checkNode,
  dataFolder,
  ensureDebian,
  ensureNpm,
  fail,
  mustBeFree,
  root,
  secretsIn,
} from './setup.mjs'

const dev = process.argv.includes('--dev')
const empty = process.argv.includes('--empty') || Boolean(process.env.DATABASE_URL && !process.env.LOOM_DEMO)
const fresh = process.argv.includes('--fresh')
if (empty && fresh)
  fail('--fresh resets the demo. There is none with --empty: remove .data/own by hand instead.')
const ports = {
  app: Number(process.env.LOOM_PORT ?? 4000),
  standins: Number(process.env.STANDINS_PORT ?? 4100),
  database: Number(process.env.DB_PORT ?? 43306),
  mail: Number(process.env.LOOM_SMTP_PORT ?? 4025),
  mailbox: Number(process.env.STANDINS_MAIL_PORT ?? 4125),
}

checkNode()
await mustBeFree(ports.app, 'LOOM_PORT')
await mustBeFree(ports.mail, 'LOOM_SMTP_PORT')
if (!empty) {
  await mustBeFree(ports.standins, 'STANDINS_PORT')
  await mustBeFree(ports.mailbox, 'STANDINS_MAIL_PORT')
}
ensureDebian(process.env.DATABASE_URL ? [] : ['mariadb-server'])
ensureNpm()

// The demo and what is one's own never share a database.
const folder = empty && !process.env.DATABASE_URL ? join(dataFolder, 'own') : dataFolder
const secrets = secretsIn(folder)
const standinsFolder = join(dataFolder, 'standins')
if (fresh) rmSync(standinsFolder, { recursive: true, force: true })

if (!dev) {
  console.log('Building …')
  const built = spawnSync('npm', ['run', 'build', '--silent'], { cwd: root, encoding: 'utf8' })
  if (built.status !== 0) fail(`It could not be built:\n${built.stdout}${built.stderr}`)
}

const stops = []
let stopping = false
async function stopAll(code) {
  if (stopping) return
  stopping = true
  for (const stop of stops.reverse()) await stop()
  process.exit(code)
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => stopAll(0))
// npm may be ended without telling us: then nobody waits for what we hold any more.
const parent = process.ppid
setInterval(() => {
  if (process.ppid !== parent) stopAll(0)
}, 500).unref()

let databaseUrl = process.env.DATABASE_URL
if (!databaseUrl) {
  // Our own leftover in this folder is ended first, so that a taken port is somebody else's.
  const databaseIn = databaseFolder(join(folder, 'mariadb'))
  await endLeftover(databaseIn)
  await mustBeFree(ports.database, 'DB_PORT')
  if (fresh) rmSync(databaseIn, { recursive: true, force: true })
  const database = await startDatabase({
    folder: databaseIn,
    port: ports.database,
    password: secrets.database,
  })
  stops.push(database.stop)
  databaseUrl = database.url
}

const code = name =>
  dev ? ['--watch', '--import', 'tsx', `packages/${name}/src/main.ts`] : [...nodeFlags, `dist/app/${name}.js`]
async function part(name, args, env, careful, tell) {
  const { stop } = await keptRunning({
    name,
    args,
    env,
    careful,
    cwd: root,
    say: dev,
    tell,
    gaveUp: () => stopAll(1),
  })
  stops.push(stop)
}

const standins = `http://127.0.0.1:${ports.standins}`
if (!empty)
  await part('The stand-ins', code('standins'), {
    STANDINS_PORT: String(ports.standins),
    STANDINS_MAIL_PORT: String(ports.mailbox),
    STANDINS_DATA: standinsFolder,
  })
const demo = {
  LOOM_MAIL_URL: process.env.LOOM_MAIL_URL ?? `smtp://127.0.0.1:${ports.mailbox}`,
  LOOM_ALLOW_HOSTS: process.env.LOOM_ALLOW_HOSTS ?? `127.0.0.1:${ports.standins},localhost:${ports.standins}`,
  LOOM_DEMO: process.env.LOOM_DEMO ?? standins,
}
const server = {
  LOOM_PORT: String(ports.app),
  LOOM_SMTP_PORT: String(ports.mail),
  DATABASE_URL: databaseUrl,
  LOOM_SECRET: process.env.LOOM_SECRET ?? secrets.key,
  LOOM_LAST_WORDS: join(folder, 'last-words.json'),
  ...(empty ? {} : demo),
  ...(dev ? {} : { LOOM_WEB: join(root, 'packages/web/dist') }),
}
// What ends it again and again is most likely read by sync: without that, people can look what it is.
// Of all that the server says on its own, only where the first person begins is for whoever started it.
const begins = /Begin here, once, within a day: \S+/
await part('Amber Loom', code('server'), server, { LOOM_ENGINE: 'off' }, begins)
if (dev) {
  const vite = spawn('npm', ['run', 'dev', '-w', '@loom/web'], { cwd: root, stdio: 'inherit' })
  stops.push(() => ended(vite))
}

if (empty)
  console.log(`
Amber Loom is ready:   http://127.0.0.1:${ports.app}/
Ctrl-C stops everything.`)
else
  console.log(`
Amber Loom is ready:   http://127.0.0.1:${ports.app}/
  sign in as           ines@quillmere.example     (coordinator)
                       tobias@quillmere.example   (glasshouses)
                       anouk@quillmere.example    (plant records, Kathmandu time)
  password             night-flowering
The other side:        ${standins}/   (all the other services)
Ctrl-C stops everything.`)
