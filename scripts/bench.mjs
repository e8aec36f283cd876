// npm run bench: measures, prints tables and writes docs/benchmarks.md. `-- --quick` only tries that it runs.
import { withDatabase } from './with-database.mjs'

await withDatabase({
  debian: ['mariadb-server'],
  name: 'bench',
  commands: [
    [process.execPath, '--import', 'tsx', 'packages/server/bench/measure.ts', ...process.argv.slice(2)],
  ],
})
