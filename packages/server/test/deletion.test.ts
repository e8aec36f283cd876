import { expect } from 'chai'
import { newTask } from '@loom/core'
import { addOwn, intakeOf } from '../src/own/connector.ts'
import { removePart, tablesWithWorkspace } from '../src/data/repositories/deletion.ts'
import { elsewhere } from './support/elsewhere.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** What goes with a workspace or an account, and what stays. */
describe('deleting', function () {
  this.timeout(60_000)
  let w: World
  beforeEach(async () => {
    w = await startWorld()
    const desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
    workspace = await here(w.client)
  })
  afterEach(() => w.close())
  const db = () => w.app.ctx.db
  /** Topics that were told, and turns that were taken: they name nothing, and are forgotten by themselves. */
  const PASSING = ['changes', 'leases']
  /** How many rows each table has of a workspace. */
  async function rowsOf(workspaceId: string): Promise<Record<string, number>> {
    const out: Record<string, number> = {}
    for (const { name } of await tablesWithWorkspace(db())) {
      if (PASSING.includes(name)) continue
      const one = await db().one<{ n: number }>(
        `SELECT COUNT(*) AS n FROM ${name} WHERE workspace_id = :workspaceId`,
        { workspaceId },
      )
      if (Number(one?.n) > 0) out[name] = Number(one?.n)
    }
    return out
  }
  let workspace = ''
  const here = async (c: Client): Promise<string> => (await c.call('GET', '/session')).body.workspaceId
  const titles = async (c: Client): Promise<string[]> =>
    (await c.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.map((i: any) => i.title).sort()

  it('a workspace: it is out of reach at once, then nothing of it is left, and others are as they were', async () => {
    const stranger = await elsewhere(w)
    const theirs = await here(stranger)
    await stranger.call('POST', '/doors', { kind: 'mail' })
    const before = await rowsOf(theirs)
    const ours = await here(w.client)
    expect(Object.keys(await rowsOf(ours)).length).to.be.greaterThan(8)
    const { body: counts } = await w.client.call('GET', '/team/deletion')
    expect(counts.connections).to.equal(2)
    expect((await w.client.call('POST', '/team/delete', { name: 'Something else' })).status).to.equal(422)
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    expect((await tobias.call('POST', '/team/delete', { name: 'Quillmere Garden' })).status).to.equal(403)
    expect((await w.client.call('POST', '/team/delete', { name: 'Quillmere Garden' })).status).to.equal(200)
    expect((await w.client.call('GET', '/me')).status).to.equal(401)
    expect((await tobias.call('GET', '/me')).status).to.equal(401)
    expect(await new Client(w.client.base).signIn()).to.equal(403)
    await until('nothing of it is left', async () => {
      const gone = await db().one('SELECT id FROM workspaces WHERE id = :ours', { ours })
      return gone === null && Object.keys(await rowsOf(ours)).length === 0
    })
    expect((await stranger.call('GET', '/me')).status).to.equal(200)
    expect(await rowsOf(theirs)).to.include(before)
    // What lives at its services is there.
    expect(await w.garden.events('festival-work')).to.not.have.length(0)
  })

  it('an account: it leaves its workspaces under no name; where nobody else could look after one, it stays', async () => {
    const remove = (c: Client, password = 'night-flowering') =>
      c.call('POST', '/account/delete', { password })
    const stuck = await remove(w.client)
    expect([stuck.status, stuck.body.reason]).to.deep.equal([
      409,
      'Nobody else could look after Quillmere Garden. Make somebody a coordinator first.',
    ])
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await tobias.call('POST', '/account/workspaces', { name: 'His alone', zone: 'UTC' })
    const own = await here(tobias)
    const plan = (await tobias.call('GET', '/account/deletion')).body
    expect(plan).to.deep.include({ left: ['Quillmere Garden'], stuck: [] })
    expect(plan.alone.map((a: any) => a.name)).to.deep.equal(['His alone'])
    expect((await remove(tobias, 'not his')).status).to.equal(403)
    const before = await titles(w.client)
    expect((await remove(tobias)).status).to.equal(200)
    expect((await tobias.call('GET', '/me')).status).to.equal(401)
    expect(await new Client(w.client.base).signIn('tobias@quillmere.example')).to.equal(403)
    await until('his own workspace is gone', async () => Object.keys(await rowsOf(own)).length === 0)
    const { members } = (await w.client.call('GET', '/team')).body
    expect(members.map((m: any) => m.name)).to.not.include('Tobias Lund')
    const told = await db().rows<{ name: string; email: string }>(
      `SELECT name, email FROM members WHERE name LIKE 'Tobias%' OR email LIKE 'tobias%'
       UNION SELECT email, email FROM users WHERE email LIKE 'tobias%'`,
    )
    expect(told).to.deep.equal([])
    expect(await titles(w.client)).to.deep.equal(before)
    // The address is free again.
    const made = await w.client.call('POST', '/team/invitations', {
      email: 'tobias@quillmere.example',
      role: 'member',
    })
    expect(made.status).to.equal(200)
  })

  it('before that, everything kept about oneself can be taken along; nobody else’s, and no secret', async () => {
    const { me } = (await w.client.call('GET', '/team')).body
    const { db: database, now } = w.app.ctx
    const task = newTask('lamp', { summary: 'Oil the lamp' })
    await database.commit(sql => addOwn(sql, workspace, intakeOf(me), task, now()))
    await database.commit(sql =>
      addOwn(sql, workspace, intakeOf('somebody'), newTask('x', { summary: 'Not hers' }), now()),
    )
    const { body } = await w.client.call('GET', '/account/export')
    expect(body.email).to.equal('ines@quillmere.example')
    expect(body.workspaces.map((x: any) => [x.workspace, x.role, x.name])).to.deep.equal([
      ['Quillmere Garden', 'coordinator', 'Ines Varga'],
    ])
    expect(body.workspaces[0].intake.map((i: any) => [i['@type'], i.title])).to.deep.equal([
      ['Task', 'Oil the lamp'],
    ])
    expect(JSON.stringify(body)).to.not.match(/Not hers|tobias@|argon2|token|public_key/)
  })

  it('goes on after a process that came to no end with it', async () => {
    const ours = await here(w.client)
    await db().run('UPDATE workspaces SET deleted_at = 1 WHERE id = :ours', { ours })
    expect(await removePart(db(), 'journal', { workspaceId: ours })).to.be.at.least(0)
    const { removeDeletedWorkspaces } = await import('../src/team/deletion.ts')
    await removeDeletedWorkspaces(w.app.ctx)
    expect(await rowsOf(ours)).to.deep.equal({})
  })
})
