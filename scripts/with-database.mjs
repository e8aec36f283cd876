// Something that wants a database of its own for as long as it runs, and everything installed before it.
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { startDatabase } from './database.mjs'
import { checkNode, dataFolder, ensureDebian, ensureNpm, root, secretsIn } from './setup.mjs'
import { freePort } from './free-port.mjs'

/** Runs commands (each `[program, ...arguments]`) one after the other until one fails, then ends with its status. */
export async function withDatabase({ debian, name, commands }) {
  checkNode()
  ensureDebian(debian)
  ensureNpm()
  const folder = join(dataFolder, name)
  const database = await startDatabase({
    folder: join(folder, 'mariadb'),
    port: await freePort(),
    password: secretsIn(folder).database,
  })
  const env = { ...process.env, TEST_DATABASE_URL: database.url }
  let status = 0
  for (const [program, ...args] of commands)
    if (status === 0) status = spawnSync(program, args, { cwd: root, stdio: 'inherit', env }).status ?? 1
  await database.stop()
  process.exit(status)
}
