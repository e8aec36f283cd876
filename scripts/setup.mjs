// What a fresh machine needs before anything of ours can run: Debian's packages and npm's.
import { execFileSync, spawnSync } from 'node:child_process'
import { createHash, randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { isFree } from './free-port.mjs'

export const root = resolve(dirname(fileURLToPath(import.meta.url)), '..')
export const dataFolder = resolve(root, process.env.LOOM_DATA ?? '.data')

/** Ends the program with a sentence instead of a stack. */
export function fail(message) {
  console.error(`\n${message}\n`)
  process.exit(1)
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < 20 || (major === 20 && minor < 19))
    fail(`Node.js 20.19 or newer is needed; this is ${process.version}.`)
}

const PROGRAMS = { 'mariadb-server': 'mariadbd', chromium: 'chromium' }

const onPath = program =>
  ['/usr/sbin', '/usr/bin', '/usr/local/bin', '/usr/local/sbin'].some(folder =>
    existsSync(join(folder, program)),
  )

export function ensureDebian(packages) {
  const missing = packages.filter(p => !onPath(PROGRAMS[p]))
  if (missing.length === 0) return
  if (process.getuid?.() !== 0 || !onPath('apt-get'))
    fail(`Please install first: ${missing.join(', ')} (as root: apt-get install ${missing.join(' ')}).`)
  console.log(`Installing ${missing.join(', ')} …`)
  const apt = (...args) =>
    spawnSync('apt-get', ['-q', '-y', ...args], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    }).status
  // Debian would start a server of its own at once; ours is the only one that is wanted.
  const policy = '/usr/sbin/policy-rc.d'
  const ours = !existsSync(policy)
  if (ours) writeFileSync(policy, '#!/bin/sh\nexit 101\n', { mode: 0o755 })
  apt('update')
  const status = apt('install', '--no-install-recommends', ...missing)
  if (ours) execFileSync('rm', ['-f', policy])
  if (status !== 0) fail(`Debian's packages could not be installed: ${missing.join(', ')}.`)
}

/** Installs npm's packages when there are none or the lock file has changed since. */
export function ensureNpm() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  const stamp = join(root, 'node_modules', '.loom-lock')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  console.log('Installing npm packages …')
  const { status } = spawnSync('npm', ['ci', '--no-fund', '--no-audit'], {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  if (status !== 0) fail('npm ci did not succeed.')
  writeFileSync(stamp, lock)
}

export async function mustBeFree(port, variable) {
  if (!(await isFree(port))) fail(`Port ${port} is taken by another program. Set ${variable} to a free one.`)
}

/** Generated once for each data folder; the key that credentials are encrypted with stays outside the database. */
export function secretsIn(folder) {
  mkdirSync(folder, { recursive: true })
  const file = join(folder, 'secrets.json')
  if (!existsSync(file)) {
    const made = { database: randomBytes(18).toString('base64url'), key: randomBytes(32).toString('hex') }
    writeFileSync(file, JSON.stringify(made), { mode: 0o600 })
  }
  return JSON.parse(readFileSync(file, 'utf8'))
}
