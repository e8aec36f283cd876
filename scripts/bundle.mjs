import { cpSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { root } from './setup.mjs'

/** Our own packages are put into one file; those of others stay where npm has installed them. */
const othersStay = {
  name: 'others-stay',
  setup(bundle) {
    bundle.onResolve({ filter: /^[^./]/ }, ({ path }) =>
      path.startsWith('@loom/') ? undefined : { path, external: true },
    )
  },
}

/** Plain JavaScript with source maps in dist/, from entry points by name (paths from the root). */
export async function bundle(entryPoints, folder) {
  await build({
    absWorkingDir: root,
    entryPoints,
    outdir: join('dist', folder),
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
}
