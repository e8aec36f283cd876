// npm run bench: measures, prints tables and writes docs/benchmarks.md. `-- --quick` only tries that it runs.
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { startDatabase } from './database.mjs'
import { checkNode, dataFolder, ensureDebian, ensureNpm, freePort, root, secretsIn } from './setup.mjs'

checkNode()
ensureDebian(['mariadb-server'])
ensureNpm()
const folder = join(dataFolder, 'bench')
const database = await startDatabase({
  folder: join(folder, 'mariadb'),
  port: await freePort(),
  password: secretsIn(folder).database,
})
const { status } = spawnSync(
  process.execPath,
  ['--import', 'tsx', 'packages/server/bench/import.ts', ...process.argv.slice(2)],
  { cwd: root, stdio: 'inherit', env: { ...process.env, TEST_DATABASE_URL: database.url } },
)
await database.stop()
process.exit(status ?? 1)
