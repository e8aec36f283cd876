// npm run pictures: takes docs/screenshots/ anew, from the demo data and with a fixed clock.
import { spawnSync } from 'node:child_process'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { startDatabase } from './database.mjs'
import { checkNode, dataFolder, ensureDebian, ensureNpm, root, secretsIn } from './setup.mjs'

checkNode()
ensureDebian(['mariadb-server', 'chromium'])
ensureNpm()
const port = await new Promise(done => {
  const probe = createServer().listen(0, '127.0.0.1', () => {
    const found = probe.address().port
    probe.close(() => done(found))
  })
})
const folder = join(dataFolder, 'test')
const database = await startDatabase({
  folder: join(folder, 'mariadb'),
  port,
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
