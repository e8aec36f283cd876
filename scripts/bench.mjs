// npm run bench: measures, prints tables and writes docs/benchmarks.md. `-- --quick` only tries that it runs.
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { withDatabase } from './with-database.mjs'

process.env.LOOM_BENCH_PAGE = join(mkdtempSync(join(tmpdir(), 'loom-bench-')), 'page.md')
const only = process.argv.includes('--only')
await withDatabase({
  debian: ['mariadb-server', 'chromium'],
  name: 'bench',
  commands: [
    ...(only
      ? []
      : [
          ['npm', 'run', 'build', '--silent'],
          [process.execPath, '--import', 'tsx', 'packages/e2e/measure.ts'],
        ]),
    [process.execPath, '--import', 'tsx', 'packages/server/bench/measure.ts', ...process.argv.slice(2)],
  ],
})
