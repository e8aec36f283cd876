import { expect } from 'chai'
import { newEvent, newTask, zonedAt } from '@loom/core'
import { hashPassword } from '../src/access/passwords.ts'
import { seal } from '../src/access/secrets.ts'
import { readConfig } from '../src/context/config.ts'
import { Database } from '../src/data/database.ts'
import { json } from '../src/data/json.ts'
import { migrate } from '../src/data/migrate.ts'
import { startServer } from '../src/server.ts'
import { Client, freePort, freshDatabase, SECRET, weekDay } from './support/world.ts'

/** A filled database of before there were levels: nobody's Cloth is another one, intakes apart. */
describe('what was shared by everybody before', function () {
  this.timeout(30_000)
  const DAY = weekDay(2)
  const at = (hour: number): number => Date.parse(`${DAY}T${String(hour).padStart(2, '0')}:00Z`)

  it('stays seen and changed by everybody, private entries too, until its owner has chosen once', async () => {
    const { url, drop } = await freshDatabase()
    const db = new Database(url)
    await migrate(db, '0024-deleted-workspaces')
    const key = { key: Buffer.from(SECRET, 'hex'), old: null }
    await db.insert(
      `INSERT INTO workspaces (id, name, zone) VALUES ('w', 'Quillmere Garden', 'Europe/Dublin')`,
    )
    await db.insert(`INSERT INTO change_counters (workspace_id) VALUES ('w')`)
    const hash = await hashPassword('night-flowering')
    for (const [name, role] of [
      ['ines', 'coordinator'],
      ['tobias', 'member'],
    ]) {
      const p = { name, role, hash }
      await db.insert(
        `INSERT INTO users (id, email, password_hash, made_at) VALUES (:name, CONCAT(:name, '@quillmere.example'), :hash, 0)`,
        p,
      )
      await db.insert(
        `INSERT INTO members (id, workspace_id, user_id, role, joined_at, name, email, zone)
         VALUES (:name, 'w', :name, :role, 0, :name, CONCAT(:name, '@quillmere.example'), 'Europe/Dublin')`,
        p,
      )
    }
    const connection = (id: string, kind: string, owner: string | null) =>
      db.insert(
        `INSERT INTO connections (id, workspace_id, kind, name, address, credentials, account_name, scope, owner_id, paused)
         VALUES (:id, 'w', :kind, :id, 'https://nothing.invalid', :credentials, '', :scope, :owner, 1)`,
        {
          id,
          kind,
          owner,
          credentials: seal({}, key),
          scope: json({ by: 'sentence', future: false, filter: [], notes: true }),
        },
      )
    await connection('hers', 'caldav', 'ines')
    await connection('teams', 'caldav', null)
    await connection('ours', 'own', null)
    const list = (id: string, of: string, kind: string, remote = id) =>
      db.insert(
        `INSERT INTO collections (id, workspace_id, connection_id, remote_id, name, dye, item_kind, writable, takes_part, terms)
         VALUES (:id, 'w', :of, :remote, :id, '#44566C', :kind, 1, 1, :terms)`,
        { id, of, kind, remote, terms: json({ statuses: [], priorities: [] }) },
      )
    await list('calendar', 'hers', 'event')
    await list('team calendar', 'teams', 'event')
    await list('intake of ines', 'ours', 'task', 'intake-ines')
    await list('intake of tobias', 'ours', 'task', 'intake-tobias')
    const mirror = (id: string, of: string, into: string, item: object, startMs: number | null) =>
      db.insert(
        `INSERT INTO mirrors (id, workspace_id, connection_id, collection_id, remote_id, revision, uid, kind, presence,
           item, seen, first_seen_at, start_ms, end_ms, recurring, open_task, words)
         VALUES (:id, 'w', :of, :into, :id, '1', :id, :kind, 'present', :item, '{}', 0, :startMs, :endMs, 0, :open, '')`,
        {
          id,
          of,
          into,
          item: json(item),
          kind: 'time' in item ? 'event' : 'task',
          startMs,
          endMs: startMs && startMs + 3_600_000,
          open: 'time' in item ? 0 : 1,
        },
      )
    const event = (summary: string, hour: number, isPrivate: boolean) =>
      newEvent(
        summary,
        { anchor: zonedAt(at(hour), 'Europe/Dublin'), minutes: 60 },
        { summary, class: isPrivate ? 'private' : 'public', description: `notes of ${summary}` },
      )
    await mirror('open', 'hers', 'calendar', event('Open hour', 9, false), at(9))
    await mirror('closed', 'hers', 'calendar', event('Dentist', 11, true), at(11))
    await mirror('team', 'teams', 'team calendar', event('Team hour', 13, true), at(13))
    await mirror('jot', 'ours', 'intake of ines', newTask('jot', { summary: 'Jotted by Ines' }), null)
    await mirror('jot2', 'ours', 'intake of tobias', newTask('jot2', { summary: 'Jotted by Tobias' }), null)
    const port = await freePort()
    const app = await startServer(
      readConfig({
        LOOM_PORT: String(port),
        DATABASE_URL: url,
        LOOM_SECRET: SECRET,
        LOOM_SMTP_PORT: '0',
        LOOM_LOG: 'silent',
      }),
    )
    try {
      const [ines, tobias] = [new Client(`http://127.0.0.1:${port}`), new Client(`http://127.0.0.1:${port}`)]
      await ines.signIn('ines@quillmere.example')
      await tobias.signIn('tobias@quillmere.example')
      const seen = async (who: Client) => {
        const { items } = (await who.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
        return items
          .map((i: any) => [i.onlyBusy ? 'busy' : i.title, i.movable, i.notes].join(' '))
          .sort() as string[]
      }
      const all = [
        'Dentist true notes of Dentist',
        'Open hour true notes of Open hour',
        'Team hour true notes of Team hour',
      ]
      expect(await seen(ines)).to.deep.equal([...all, 'Jotted by Ines true '].sort())
      expect(await seen(tobias)).to.deep.equal([...all, 'Jotted by Tobias true '].sort())
      const { lists } = (await ines.call('GET', '/sharing')).body
      expect(lists.filter((l: any) => !l.own).map((l: any) => [l.name, l.asBefore, l.isMine])).to.deep.equal([
        ['calendar', true, true],
        ['team calendar', true, false],
      ])
      const choice = { changes: [{ list: 'calendar', to: { kind: 'everybody' }, level: 'change' }] }
      expect((await ines.call('POST', '/sharing/effect', choice)).body).to.deep.equal({
        effects: [],
        closes: 1,
        asks: [],
      })
      const before = (await ines.call('PUT', '/sharing', choice)).body
      expect(before).to.deep.equal({ changes: [], asBefore: ['calendar'], asked: [] })
      expect(await seen(tobias)).to.deep.equal(
        [
          'Open hour true notes of Open hour',
          'Team hour true notes of Team hour',
          'busy false ',
          'Jotted by Tobias true ',
        ].sort(),
      )
      expect(await seen(ines)).to.deep.equal([...all, 'Jotted by Ines true '].sort())
    } finally {
      await app.stop()
      await db.close()
      await drop()
    }
  })
})
