// The order of the house: no circles, arrows one way, no SQL outside data/.
import { spawnSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './setup.mjs'

let failed = false
for (const [at, ...folders] of [
  ['.', 'packages/core/src', 'packages/connectors/src', 'packages/standins/src', 'packages/server/src'],
  ['packages/web', 'src'],
]) {
  const { status } = spawnSync(
    join(root, 'node_modules/.bin/depcruise'),
    ['--config', join(root, '.dependency-cruiser.cjs'), '--output-type', 'err', ...folders],
    { cwd: join(root, at), stdio: 'inherit' },
  )
  failed ||= status !== 0
}

const server = join(root, 'packages/server/src')
const withSql = readdirSync(server, { recursive: true })
  .filter(file => file.endsWith('.ts') && !file.startsWith('data/'))
  .filter(file =>
    /['"`]\s*(SELECT|INSERT|REPLACE|UPDATE|DELETE)\s/.test(readFileSync(join(server, file), 'utf8')),
  )
for (const file of withSql) console.error(`SQL outside data/: ${file}`)
process.exit(failed || withSql.length > 0 ? 1 : 0)
