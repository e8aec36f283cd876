// npm run pictures: takes docs/screenshots/ anew, from the demo data and with a fixed clock.
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { startDatabase } from './database.mjs'
import { checkNode, dataFolder, ensureDebian, ensureNpm, freePort, root, secretsIn } from './setup.mjs'

checkNode()
ensureDebian(['mariadb-server', 'chromium'])
ensureNpm()
const folder = join(dataFolder, 'test')
const database = await startDatabase({
  folder: join(folder, 'mariadb'),
  port: await freePort(),
  password: secretsIn(folder).database,
})
const run = (command, args) =>
  spawnSync(command, args, {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, TEST_DATABASE_URL: database.url },
  }).status
const status =
  run('npm', ['run', 'build', '--silent']) ||
  run(process.execPath, ['--import', 'tsx', 'packages/e2e/pictures.ts'])
await database.stop()
process.exit(status ?? 1)
