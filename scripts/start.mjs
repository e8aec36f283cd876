// npm start: from a fresh machine to the running product with its demo. npm start -- --fresh resets the demo.
import { spawn, spawnSync } from 'node:child_process'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { endLeftover, startDatabase } from './database.mjs'
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
const fresh = process.argv.includes('--fresh')
const ports = {
  app: Number(process.env.LOOM_PORT ?? 4000),
  standins: Number(process.env.STANDINS_PORT ?? 4100),
  database: Number(process.env.DB_PORT ?? 43306),
  mail: Number(process.env.LOOM_SMTP_PORT ?? 4025),
  mailbox: Number(process.env.STANDINS_MAIL_PORT ?? 4125),
}

checkNode()
await mustBeFree(ports.app, 'LOOM_PORT')
await mustBeFree(ports.standins, 'STANDINS_PORT')
await mustBeFree(ports.mail, 'LOOM_SMTP_PORT')
await mustBeFree(ports.mailbox, 'STANDINS_MAIL_PORT')
ensureDebian(process.env.DATABASE_URL ? [] : ['mariadb-server'])
ensureNpm()

const secrets = secretsIn(dataFolder)
const databaseFolder = join(dataFolder, 'mariadb')
const standinsFolder = join(dataFolder, 'standins')
if (fresh) rmSync(standinsFolder, { recursive: true, force: true })

if (!dev) {
  console.log('Building the interface …')
  const built = spawnSync('npm', ['run', 'build', '--silent'], { cwd: root, encoding: 'utf8' })
  if (built.status !== 0) fail(`The interface could not be built:\n${built.stdout}${built.stderr}`)
}

const stops = []
let stopping = false
async function stopAll(code) {
  if (stopping) return
  stopping = true
  for (const stop of stops.reverse()) await stop()
  process.exit(code)
}
process.on('SIGINT', () => void stopAll(0))
process.on('SIGTERM', () => void stopAll(0))

let databaseUrl = process.env.DATABASE_URL
if (!databaseUrl) {
  // Our own leftover in this folder is ended first, so that a taken port is somebody else's.
  await endLeftover(databaseFolder)
  await mustBeFree(ports.database, 'DB_PORT')
  if (fresh) rmSync(databaseFolder, { recursive: true, force: true })
  const database = await startDatabase({
    folder: databaseFolder,
    port: ports.database,
    password: secrets.database,
  })
  stops.push(database.stop)
  databaseUrl = database.url
}

/** Starts a part of ours and waits for its first line. */
function part(name, args, env) {
  const child = spawn(process.execPath, args, {
    cwd: root,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
    detached: true,
  })
  const exited = new Promise(done => child.once('exit', done))
  stops.push(async () => {
    if (child.exitCode === null) child.kill('SIGTERM')
    await exited
  })
  child.once('exit', code => {
    if (!stopping) console.error(`${name} ended (${code}).`)
    void stopAll(1)
  })
  return new Promise(done => {
    child.stdout.once('data', () => done(child))
    if (dev) child.stdout.pipe(process.stdout)
  })
}

const standins = `http://127.0.0.1:${ports.standins}`
const watch = dev ? ['--watch'] : []
await part('The stand-ins', [...watch, '--import', 'tsx', 'packages/standins/src/main.ts'], {
  STANDINS_PORT: String(ports.standins),
  STANDINS_MAIL_PORT: String(ports.mailbox),
  STANDINS_DATA: standinsFolder,
})
await part('Amber Loom', [...watch, '--import', 'tsx', 'packages/server/src/main.ts'], {
  LOOM_PORT: String(ports.app),
  LOOM_SMTP_PORT: String(ports.mail),
  LOOM_MAIL_URL: process.env.LOOM_MAIL_URL ?? `smtp://127.0.0.1:${ports.mailbox}`,
  DATABASE_URL: databaseUrl,
  LOOM_SECRET: process.env.LOOM_SECRET ?? secrets.key,
  LOOM_ALLOW_HOSTS: process.env.LOOM_ALLOW_HOSTS ?? `127.0.0.1:${ports.standins},localhost:${ports.standins}`,
  LOOM_DEMO: process.env.LOOM_DEMO ?? standins,
  ...(dev ? {} : { LOOM_WEB: join(root, 'packages/web/dist') }),
})
if (dev) {
  const vite = spawn('npm', ['run', 'dev', '-w', '@loom/web'], { cwd: root, stdio: 'inherit' })
  stops.push(async () => void vite.kill('SIGTERM'))
}

console.log(`
Amber Loom is ready:   http://127.0.0.1:${ports.app}/
  sign in as           ines@quillmere.example     (coordinator)
                       tobias@quillmere.example   (glasshouses)
                       anouk@quillmere.example    (plant records, Kathmandu time)
  password             night-flowering
The other side:        ${standins}/   (all the other services)
Ctrl-C stops everything.`)
