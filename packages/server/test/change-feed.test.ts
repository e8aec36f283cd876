import { expect } from 'chai'
import pino from 'pino'
import { Background } from '../src/work/background.ts'
import { Database } from '../src/data/database.ts'
import { migrate } from '../src/data/migrate.ts'
import { ChangeFeed } from '../src/data/change-feed.ts'
import type { Change } from '../src/data/change.ts'
import { freshDatabase } from './support/world.ts'

/** What a page is told that was away for a while. */
describe('what has happened since', () => {
  const workspaceId = 'garden'
  let db: Database
  let drop: () => Promise<void>
  const number = (change: Change): Promise<void> => db.commit(async sql => sql.tell(workspaceId, change))
  const since = (seq: number) =>
    new ChangeFeed(db, new Background(pino({ level: 'silent' }))).since(workspaceId, seq)

  before(async () => {
    const fresh = await freshDatabase()
    db = new Database(fresh.url)
    drop = fresh.drop
    await migrate(db)
    await db.insert(`INSERT INTO workspaces (id, name, zone) VALUES (:workspaceId, 'Garden', 'UTC')`, {
      workspaceId,
    })
  })
  after(async () => {
    await db.close()
    await drop()
  })

  it('is told change by change, and nothing where there was none', async () => {
    expect(await since(0)).to.deep.equal([])
    await number({ topics: ['cloth'] })
    await number({ topics: ['rules'] })
    expect(await since(1)).to.deep.equal([{ seq: 2, change: { topics: ['rules'] } }])
    expect((await since(0)).map(c => c.seq)).to.deep.equal([1, 2])
    expect(await since(2)).to.deep.equal([])
  })

  it('is everything, told once, where some of it is forgotten or it is very much', async () => {
    const everything = {
      topics: [
        'cloth',
        'categories',
        'journal',
        'rules',
        'connections',
        'views',
        'team',
        'reminders',
        'invitations',
      ],
    }
    await db.run('DELETE FROM changes WHERE seq = 1')
    expect(await since(0)).to.deep.equal([{ seq: 2, change: everything }])
    const many = Array.from({ length: 600 }, (_, i) => [workspaceId, 3 + i, '{"topics":["journal"]}'])
    await db.insert('INSERT INTO changes (workspace_id, seq, body) VALUES :many', { many })
    await db.run('UPDATE change_counters SET change_seq = 602')
    expect(await since(2)).to.deep.equal([{ seq: 602, change: everything }])
    expect((await since(300)).length).to.equal(302)
  })
})
