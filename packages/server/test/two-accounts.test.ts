import { defaultSettings } from '@loom/core'
import { expect } from 'chai'
import { beginBoard, keep, readOnce } from './support/connecting.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** One list of a service that comes in by the accounts of two colleagues: one list, and each edits it by their own. */
describe('one list by two accounts', function () {
  this.timeout(90_000)
  let w: World
  let desk: RuleDesk
  const who: Record<'ines' | 'tobias', { client: Client; connection: string; list: string }> = {
    ines: { client: new Client(''), connection: '', list: '' },
    tobias: { client: new Client(''), connection: '', list: '' },
  }

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    const tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    for (const [name, client, account] of [
      ['ines', w.client, 1007],
      ['tobias', tobias, 1012],
    ] as const) {
      const theirs: World = { ...w, client }
      const { me } = (await client.call('GET', '/team')).body
      const found = await beginBoard(theirs, account)
      const connection = await keep(theirs, found, { name: `Board of ${name}`, ownerId: me })
      const { collections } = await readOnce(theirs, connection)
      const list = collections.find((k: any) => k.remoteId.includes('c-paths')).id
      const everybody = { list, to: { kind: 'everybody' }, level: 'change' }
      expect((await client.call('PUT', '/sharing', { changes: [everybody] })).status).to.equal(200)
      who[name] = { client, connection, list }
    }
    await desk.settled()
  })
  after(() => w.close())

  const drawn = async (client: Client, title: string) =>
    ((await client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body.items as any[]).filter(
      i => i.title === title,
    )
  const draft = async (name: 'ines' | 'tobias', calendar: string) => ({
    id: null,
    a: who[name].list,
    b: await desk.collection(calendar),
    settings: { ...defaultSettings, date: 'due', noHour: 'all-day' },
  })
  /** By whose account a new title was written. */
  const wroteBy = (title: string): Promise<string | undefined> =>
    until('it is in the journal', async () => {
      const row = await w.app.ctx.db.one<{ place: string }>(
        `SELECT place FROM journal WHERE member_id IS NOT NULL AND JSON_VALUE(fields, '$[0].after') = :title`,
        { title },
      )
      return row?.place
    })

  it('stands on the Cloth once, and what somebody changes goes by their own account', async () => {
    for (const [name, title] of [
      ['tobias', 'Handrail, all steps'],
      ['ines', 'Handrail, every step'],
    ] as const) {
      const { client } = who[name]
      const before = name === 'tobias' ? 'Handrail, moss steps' : 'Handrail, all steps'
      const [item, another] = await until(`one for ${name}`, async () => {
        const found = await drawn(client, before)
        return found.length === 1 && found
      })
      expect(another).to.equal(undefined)
      expect(item.sources).to.have.length(2)
      const edit = { do: 'rename', title }
      expect((await client.call('POST', `/cloth/${item.key}/edit`, edit)).status).to.equal(200)
      await until('it was sent', async () => (await w.board.titled('c-paths', title)) ?? false)
      expect(await wroteBy(title)).to.contain(`Board of ${name}`)
      await until('it is one again', async () => {
        const [all, old] = [await drawn(w.client, title), await drawn(w.client, before)]
        return all.length === 1 && old.length === 0
      })
    }
  })

  it('who may only look at a colleague’s way edits by their own', async () => {
    const { client } = who.tobias
    const look = { list: who.ines.list, to: { kind: 'everybody' }, level: 'title' }
    await who.ines.client.call('PUT', '/sharing', { changes: [look] })
    const [item] = await drawn(client, 'Handrail, every step')
    expect(item.onlyLook ?? false, JSON.stringify(item)).to.equal(false)
    const edit = { do: 'rename', title: 'Handrail, the last step' }
    expect((await client.call('POST', `/cloth/${item.key}/edit`, edit)).status).to.equal(200)
    await until('it was sent', async () => (await w.board.titled('c-paths', edit.title)) ?? false)
    expect(await wroteBy(edit.title)).to.contain('Board of tobias')
    const back = { ...look, level: 'change' }
    await who.ines.client.call('PUT', '/sharing', { changes: [back] })
  })

  it('rules of both keep one event in one calendar, and follow what is done to it', async () => {
    const rules: string[] = []
    for (const name of ['ines', 'tobias'] as const) {
      const made = await who[name].client.call('POST', '/rules', await draft(name, 'House repairs'))
      expect(made.status, JSON.stringify(made.body)).to.equal(201)
      rules.push(made.body.id)
    }
    await desk.settled()
    const order = await w.board.add('c-paths', { title: 'Rake the gravel', deadline: weekDay(3) })
    const events = () => w.garden.titled('house-repairs', 'Rake the gravel')
    await until('it has its event', async () => (await events()).length > 0)
    await desk.settled()
    expect(await events()).to.have.length(1)
    expect(await drawn(w.client, 'Rake the gravel')).to.have.length(1)
    await w.board.edit(order?.number ?? '', { deadline: weekDay(4) })
    const day = weekDay(4).replaceAll('-', '')
    await until('the event has moved', async () => (await events())[0]?.text.includes(`DATE:${day}`))
    await desk.settled()
    expect(await events()).to.have.length(1)

    // One of them goes: what the other keeps stays.
    const { client, connection } = who.tobias
    expect((await client.call('DELETE', `/connections/${connection}`)).status).to.equal(200)
    await desk.settled()
    expect(await events()).to.have.length(1)
    await w.board.remove(order?.number ?? '')
    await until('the event goes with its task', async () => (await events()).length === 0)
  })

  it('is known for one list when a rule is made', async () => {
    const theirs: World = { ...w, client: who.tobias.client }
    const { me } = (await theirs.client.call('GET', '/team')).body
    const again = await keep(theirs, await beginBoard(theirs, 1012), { name: 'Board again', ownerId: me })
    const { collections } = await readOnce(theirs, again)
    who.tobias.list = collections.find((k: any) => k.remoteId.includes('c-paths')).id
    const { body } = await theirs.client.call('POST', '/rules/preview', await draft('tobias', 'Garden team'))
    expect(body.twice).to.match(/stand in a calendar already/)
  })
})
