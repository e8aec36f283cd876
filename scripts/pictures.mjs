// npm run pictures: takes docs/screenshots/ anew, from the demo data and with a fixed clock.
import { withDatabase } from './with-database.mjs'

await withDatabase({
  debian: ['mariadb-server', 'chromium'],
  name: 'test',
  commands: [
    ['npm', 'run', 'build', '--silent'],
    [process.execPath, '--import', 'tsx', 'packages/e2e/pictures.ts'],
  ],
})
