import { type MigrationParams, Umzug, type UmzugStorage } from 'umzug'
import type { Database } from './database.ts'
import { up as beginning } from './migrations/0001-beginning.ts'
import { up as connectAnything } from './migrations/0002-connect-anything.ts'
import { up as twoWayRules } from './migrations/0003-two-way-rules.ts'
import { up as cloth } from './migrations/0004-cloth.ts'
import { up as oneWeek } from './migrations/0005-one-week.ts'
import { up as datesOfSeries } from './migrations/0006-dates-of-series.ts'
import { up as touched } from './migrations/0007-touched.ts'
import { up as asking } from './migrations/0008-asking.ts'
import { up as shelf } from './migrations/0009-shelf.ts'
import { up as moved } from './migrations/0010-moved.ts'
import { up as ownPlan } from './migrations/0011-own-plan.ts'
import { up as walls } from './migrations/0012-walls.ts'
import { up as itemKind } from './migrations/0013-item-kind.ts'
import { up as leaseWrites } from './migrations/0014-lease-writes.ts'
import { up as summaryTrouble } from './migrations/0015-summary-trouble.ts'
import { up as oftenChanged } from './migrations/0016-often-changed.ts'
import { up as releasedAt } from './migrations/0017-released-at.ts'
import { up as arrivals } from './migrations/0018-arrivals.ts'
import { up as accountSubject } from './migrations/0019-account-subject.ts'
import { up as uidOfWorkspace } from './migrations/0020-uid-of-workspace.ts'
import { up as categories } from './migrations/0021-categories.ts'
import { up as users } from './migrations/0022-users.ts'
import { up as passkeys } from './migrations/0023-passkeys.ts'
import { up as deletedWorkspaces } from './migrations/0024-deleted-workspaces.ts'
import { up as sharing } from './migrations/0025-sharing.ts'
import { up as identities } from './migrations/0026-identities.ts'
import { up as together } from './migrations/0027-together.ts'
import { up as sharedViews } from './migrations/0028-shared-views.ts'
import { up as secondFactor } from './migrations/0029-second-factor.ts'
import { up as linkLevels } from './migrations/0030-link-levels.ts'
import { up as passOn } from './migrations/0031-pass-on.ts'
import { up as lenses } from './migrations/0032-lenses.ts'
import { up as consents } from './migrations/0033-consents.ts'
import { up as planning } from './migrations/0034-planning.ts'
import { up as slips } from './migrations/0035-slips.ts'
import { up as ledger } from './migrations/0036-ledger.ts'
import { up as waits } from './migrations/0037-waits.ts'
import { up as keptUp } from './migrations/0038-kept-up.ts'
import { up as chat } from './migrations/0039-chat.ts'
import { up as daySeen } from './migrations/0040-day-seen.ts'
import { up as feeds } from './migrations/0041-feeds.ts'
import { up as offers } from './migrations/0042-offers.ts'
import { up as reminders } from './migrations/0043-reminders.ts'
import { up as meetings } from './migrations/0044-meetings.ts'

const MIGRATIONS: { name: string; up: string[] }[] = [
  { name: '0001-beginning', up: beginning },
  { name: '0002-connect-anything', up: connectAnything },
  { name: '0003-two-way-rules', up: twoWayRules },
  { name: '0004-cloth', up: cloth },
  { name: '0005-one-week', up: oneWeek },
  { name: '0006-dates-of-series', up: datesOfSeries },
  { name: '0007-touched', up: touched },
  { name: '0008-asking', up: asking },
  { name: '0009-shelf', up: shelf },
  { name: '0010-moved', up: moved },
  { name: '0011-own-plan', up: ownPlan },
  { name: '0012-walls', up: walls },
  { name: '0013-item-kind', up: itemKind },
  { name: '0014-lease-writes', up: leaseWrites },
  { name: '0015-summary-trouble', up: summaryTrouble },
  { name: '0016-often-changed', up: oftenChanged },
  { name: '0017-released-at', up: releasedAt },
  { name: '0018-arrivals', up: arrivals },
  { name: '0019-account-subject', up: accountSubject },
  { name: '0020-uid-of-workspace', up: uidOfWorkspace },
  { name: '0021-categories', up: categories },
  { name: '0022-users', up: users },
  { name: '0023-passkeys', up: passkeys },
  { name: '0024-deleted-workspaces', up: deletedWorkspaces },
  { name: '0025-sharing', up: sharing },
  { name: '0026-identities', up: identities },
  { name: '0027-together', up: together },
  { name: '0028-shared-views', up: sharedViews },
  { name: '0029-second-factor', up: secondFactor },
  { name: '0030-link-levels', up: linkLevels },
  { name: '0031-pass-on', up: passOn },
  { name: '0032-lenses', up: lenses },
  { name: '0033-consents', up: consents },
  { name: '0034-planning', up: planning },
  { name: '0035-slips', up: slips },
  { name: '0036-ledger', up: ledger },
  { name: '0037-waits', up: waits },
  { name: '0038-kept-up', up: keptUp },
  { name: '0039-chat', up: chat },
  { name: '0040-day-seen', up: daySeen },
  { name: '0041-feeds', up: feeds },
  { name: '0042-offers', up: offers },
  { name: '0043-reminders', up: reminders },
  { name: '0044-meetings', up: meetings },
]

/** Remembers in the database which migrations ran. */
function storage(db: Database): UmzugStorage {
  return {
    logMigration: ({ name }: MigrationParams<unknown>) =>
      db.insert('INSERT INTO migrations (name) VALUES (:name)', { name }),
    unlogMigration: async ({ name }: MigrationParams<unknown>) => {
      await db.run('DELETE FROM migrations WHERE name = :name', { name })
    },
    executed: async () =>
      (await db.rows<{ name: string }>('SELECT name FROM migrations ORDER BY name')).map(r => r.name),
  }
}

/**
 * Brings the database to the newest shape, or to an older one. Processes that start together wait for each other.
 * @param to the name of the last migration to run
 */
export async function migrate(db: Database, to?: string): Promise<void> {
  await db.sequelize.query('CREATE TABLE IF NOT EXISTS migrations (name VARCHAR(100) PRIMARY KEY)', {
    type: 'RAW',
  })
  const umzug = new Umzug({
    migrations: MIGRATIONS.map(({ name, up }) => ({
      name,
      up: async () => {
        for (const statement of up) await db.sequelize.query(statement, { type: 'RAW' })
      },
    })),
    storage: storage(db),
    logger: undefined,
  })
  await db.sequelize.transaction(async transaction => {
    // GET_LOCK belongs to this transaction's connection, which stays ours until the end.
    await db.sequelize.query(`SELECT GET_LOCK('loom-migrations', 60)`, { type: 'SELECT', transaction })
    try {
      await umzug.up(to === undefined ? undefined : { to })
    } finally {
      await db.sequelize.query(`SELECT RELEASE_LOCK('loom-migrations')`, { type: 'SELECT', transaction })
    }
  })
}
