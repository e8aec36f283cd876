// npm run build: the interface, and the server and the stand-ins as plain JavaScript with source maps, in dist/.
import { rmSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { bundle } from './bundle.mjs'
import { root } from './setup.mjs'

const web = spawnSync('npm', ['run', 'build', '--silent', '-w', '@loom/web'], { cwd: root, stdio: 'inherit' })
if (web.status !== 0) process.exit(web.status ?? 1)

rmSync(join(root, 'dist'), { recursive: true, force: true })
await bundle({ server: 'packages/server/src/main.ts', standins: 'packages/standins/src/main.ts' }, 'app')
