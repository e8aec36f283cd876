// The long run: 100,000 random histories of the model, and a server killed 500 times in passes,
// and 50,000 random teams of whom each sees what is theirs to see, and all certified drafts.
import { withDatabase } from './with-database.mjs'

const mocha = ['npx', 'mocha']
await withDatabase({
  debian: ['mariadb-server'],
  name: 'soak',
  commands: [
    ['env', 'MODEL_RUNS=100000', ...mocha, 'packages/core/test/sync.model.test.ts', '-g', 'settles, agrees'],
    ['env', 'SIGHT_TEAMS=50000', ...mocha, 'packages/server/test/sight.test.ts', '-g', 'random teams'],
    ['env', 'PLANNER_SOAK=yes', ...mocha, 'packages/core/test/planning/planning.test.ts', '-g', 'certified'],
    ['env', 'KILLS=500', ...mocha, 'packages/server/test/killed.test.ts', '-g', 'whenever it was killed'],
  ],
})
