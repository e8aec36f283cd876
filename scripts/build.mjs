// npm run build: the interface, and the server and the stand-ins as plain JavaScript with source maps, in dist/.
import { cpSync, rmSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { build } from 'esbuild'
import { root } from './setup.mjs'

const web = spawnSync('npm', ['run', 'build', '--silent', '-w', '@loom/web'], { cwd: root, stdio: 'inherit' })
if (web.status !== 0) process.exit(web.status ?? 1)

rmSync(join(root, 'dist'), { recursive: true, force: true })
/** Our own packages are put into one file; those of others stay where npm has installed them. */
const othersStay = {
  name: 'others-stay',
  setup(bundle) {
    bundle.onResolve({ filter: /^[^./]/ }, ({ path }) =>
      path.startsWith('@loom/') ? undefined : { path, external: true },
    )
  },
}
await build({
  absWorkingDir: root,
  entryPoints: { server: 'packages/server/src/main.ts', standins: 'packages/standins/src/main.ts' },
  outdir: 'dist/app',
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  sourcemap: true,
  logLevel: 'warning',
  plugins: [othersStay],
})
// Beside the code as in the packages: descriptions of services are read from ../services.
cpSync(join(root, 'packages/connectors/services'), join(root, 'dist/services'), { recursive: true })
