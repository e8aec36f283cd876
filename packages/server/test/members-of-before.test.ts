import { expect } from 'chai'
import { hashPassword } from '../src/access/passwords.ts'
import { hashOf, newToken } from '../src/access/secrets.ts'
import { readConfig } from '../src/context/config.ts'
import { Database } from '../src/data/database.ts'
import { migrate } from '../src/data/migrate.ts'
import { startServer } from '../src/server.ts'
import { Client, freePort, freshDatabase, SECRET } from './support/world.ts'

/** A filled database of before users were apart from memberships. */
describe('members of an earlier version', function () {
  this.timeout(30_000)

  it('are users and coordinators under the ids that they had, with their passwords, and stay signed in', async () => {
    const { url, drop } = await freshDatabase()
    const db = new Database(url)
    await migrate(db, '0021-categories')
    await db.insert(
      `INSERT INTO workspaces (id, name, zone) VALUES ('w', 'Quillmere Garden', 'Europe/Dublin')`,
    )
    await db.insert(`INSERT INTO change_counters (workspace_id) VALUES ('w')`)
    const hash = await hashPassword('night-flowering')
    for (const name of ['ines', 'tobias'])
      await db.insert(
        `INSERT INTO members (id, workspace_id, name, email, password_hash, zone)
           VALUES (:name, 'w', :name, CONCAT(:name, '@quillmere.example'), :hash, 'Europe/Dublin')`,
        { name, hash },
      )
    const token = newToken()
    await db.insert(
      `INSERT INTO sessions (token_hash, workspace_id, member_id, expires_at) VALUES (:hash, 'w', 'tobias', :expires)`,
      { hash: hashOf(token), expires: Date.now() + 1_000_000 },
    )
    for (const [id, member, by] of [
      ['all', null, 'ines'],
      ['left', null, 'gone'],
      ['mine', 'ines', 'ines'],
    ])
      await db.insert(
        `INSERT INTO views (id, workspace_id, member_id, made_by, name, icon, body)
           VALUES (:id, 'w', :member, :by, :id, 'leaf', '{}')`,
        { id, member, by },
      )
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
      // Somebody has begun here.
      expect(app.begin).to.equal(null)
      const base = `http://127.0.0.1:${port}`
      const tobias = new Client(base, `loom_session=${token}`)
      expect((await tobias.call('GET', '/me')).body.id).to.equal('tobias')
      const ines = new Client(base)
      expect(await ines.signIn('ines@quillmere.example', 'night-flowering')).to.equal(200)
      const { members, me } = (await ines.call('GET', '/team')).body
      expect(me).to.equal('ines')
      expect(members.map((m: any) => [m.id, m.role])).to.deep.equal([
        ['ines', 'coordinator'],
        ['tobias', 'coordinator'],
      ])
      // The team's views stay everybody's to change; whose maker has left is the coordinators'.
      const views = async (who: Client) =>
        (await who.call('GET', '/views')).body.views.map((v: any) => [v.name, v.for, v.right])
      await db.run(`UPDATE members SET role = 'member' WHERE id = 'tobias'`)
      expect(await views(ines)).to.deep.equal([
        ['all', 'everybody', 'own'],
        ['left', 'everybody', 'own'],
        ['mine', 'me', 'own'],
      ])
      expect(await views(tobias)).to.deep.equal([
        ['all', 'everybody', 'change'],
        ['left', 'everybody', 'change'],
      ])
      expect((await ines.call('GET', '/account')).body.sessions).to.have.length(1)
      expect((await tobias.call('GET', '/account')).body.sessions).to.have.length(1)
    } finally {
      await app.stop()
      await db.close()
      await drop()
    }
  })
})
