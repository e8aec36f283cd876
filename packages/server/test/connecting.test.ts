import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import {
  begin,
  beginBoard,
  connectionOf,
  consentPage,
  draftOf,
  fresh,
  GIVEN,
  keep,
  readOnce,
  titlesIn,
} from './support/connecting.ts'
import { unseal } from '../src/access/secrets.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** Every text in a value, however deep. */
const stringsIn = (value: unknown): string[] =>
  typeof value === 'string'
    ? [value]
    : typeof value === 'object' && value !== null
      ? Object.values(value).flatMap(stringsIn)
      : []

/** Each stand-in, connected as a new user would: sign-in, what comes in, who is who, first items. */
describe('connecting a service', function () {
  this.timeout(60_000)
  let w: World

  before(async () => {
    w = await startWorld()
  })
  after(() => w.close())

  const count = (draft: string, body: object) =>
    until('the service was read', async () => {
      const answer = await w.client.call('POST', `/connecting/drafts/${draft}/count`, body)
      return !answer.body.reading && answer.body
    })
  const names = (list: { name: string }[]): string[] => list.map(x => x.name)

  it('offers two standards and what is described, each with its way to sign in', async () => {
    const { services } = (await w.client.call('GET', '/connecting/services')).body
    const ways = Object.fromEntries(services.map((s: { id: string; signIn: string }) => [s.id, s.signIn]))
    expect(ways).to.include({
      caldav: 'password',
      'ics-feed': 'none',
      'bench-list': 'key',
      'repairs-board': 'consent',
      'plant-register': 'key',
      'gatehouse-mail': 'password',
    })
  })

  it('finds an account from the bare name of its server, and brings in what the sentence says', async () => {
    const found = await begin(w, 'garden')
    expect(found.already).to.equal(null)
    expect(found.account.collections.map(c => [c.name, c.itemKind])).to.deep.equal([
      ['Glasshouses', 'event'],
      ['Glasshouses: tasks', 'task'],
    ])
    const takesPart = found.account.collections.map(c => c.remoteId)
    const all = await count(found.id, { takesPart, filter: [] })
    const some = await count(found.id, {
      takesPart,
      filter: [{ field: 'words', of: ['orchid'], without: true }],
    })
    expect(all.total).to.equal(all.admitted).and.to.be.greaterThan(1)
    expect(some.total).to.equal(all.total)
    const id = await keep(w, found, { name: 'Calendars of Tobias' })
    await readOnce(w, id)
    expect(await titlesIn(w, id)).to.have.length(all.total)
  })

  it('says when an account is connected already, and keeps nothing of a draft that is left', async () => {
    const again = await begin(w, 'garden')
    expect(again.already).to.equal('Calendars of Tobias')
    // Also where its address is given otherwise.
    const other = await begin(w, 'garden', { address: `${w.standins}/garden/dav/` })
    expect(other.already).to.equal('Calendars of Tobias')
    await w.client.call('DELETE', `/connecting/drafts/${again.id}`)
    expect((await w.client.call('GET', `/connecting/drafts/${again.id}`)).status).to.equal(404)
  })

  it('shows a draft to nobody else, and no password to anybody', async () => {
    const found = await begin(w, 'garden')
    expect(JSON.stringify(found)).to.not.contain('glasshouse"')
    const other = fresh(w)
    await other.signIn('tobias@quillmere.example')
    const answers = await Promise.all([
      other.call('GET', `/connecting/drafts/${found.id}`),
      other.call('POST', `/connecting/drafts/${found.id}/count`, { takesPart: [], filter: [] }),
      other.call('POST', `/connecting/drafts/${found.id}/search`, { takesPart: [], words: '' }),
    ])
    expect(answers.map(a => a.status)).to.deep.equal([404, 404, 404])
    const row = await w.app.ctx.db.one<{ input: string }>('SELECT input FROM drafts WHERE id = :id', {
      id: found.id,
    })
    expect(row?.input).to.not.contain('glasshouse')
  })

  it('reads a feed by its webcal address', async () => {
    const found = await begin(w, 'visits', {
      address: `${w.standins}/visits/spring-term.ics`.replace('http:', 'webcal:'),
    })
    expect(names(found.account.collections)).to.deep.equal(['School visits'])
    const id = await keep(w, found, { name: 'Visits' })
    const read = await readOnce(w, id)
    expect(read.collections[0]).to.include({ writable: false, items: 5 })
    expect(read.place).to.equal(new URL(w.standins).host)
  })

  it('goes to the consent page and back, and knows whose account it is', async () => {
    const found = await beginBoard(w)
    expect(found.account.people.find(p => p.me)?.name).to.equal('Ines Varga')
    const match = Object.fromEntries(
      found.account.people.map(p => [
        p.name,
        found.members.find(m => m.id === p.memberId)?.name ?? 'nobody here',
      ]),
    )
    expect(match).to.deep.equal({
      'Ines Varga': 'Ines Varga',
      // Another name, the same mail address.
      'T. Lund': 'Tobias Lund',
      'Bram Castelijn': 'nobody here',
      'Fenwick Heating': 'nobody here',
    })
    const hidden = found.account.collections.find(c => c.name === 'Contracts')
    expect(hidden?.whyNot).to.match(/no right|not allowed|may not/i)
    expect(
      names(found.account.collections.find(c => c.name === 'Paths and gates')?.terms.statuses ?? []),
    ).to.include('Done and swept')
    const takesPart = found.account.collections.filter(c => !c.whyNot).map(c => c.remoteId)
    const counted = await count(found.id, {
      takesPart,
      filter: [{ field: 'status', is: ['needs-action', 'in-process'] }],
    })
    expect(counted).to.include({ total: 11, admitted: 8 })
    const mine = await count(found.id, { takesPart, filter: [{ field: 'assignee', is: ['me'] }] })
    expect(mine.admitted).to.equal(1)
    const id = await keep(w, found, {
      name: 'Repairs',
      scope: {
        by: 'sentence',
        future: false,
        filter: [{ field: 'status', is: ['needs-action', 'in-process'] }],
        notes: false,
      },
    })
    const read = await readOnce(w, id)
    expect((await titlesIn(w, id)).length).to.equal(8)
    expect(read).to.include({ people: 4, unmatched: 2 })
    const { body } = await w.client.call('GET', `/files/export?format=jscalendar`)
    const pane = body.entries.find((e: { title: string }) => e.title.startsWith('Cracked pane'))
    expect(pane.description, 'its notes stay at the service').to.equal(undefined)
  })

  it('takes a no, and one return of a consent only, and only from whoever asked', async () => {
    const ask = () =>
      w.client.call('POST', '/connecting/drafts', {
        service: 'repairs-board',
        address: `${w.standins}/board`,
      })
    const refused = (await ask()).body
    const led = await w.client.visit(await consentPage(w, refused.consent, 1007, 'no'))
    expect(new URL(led, w.client.base).searchParams.get('reason')).to.match(/was not given|not allow/i)
    expect((await draftOf(w, refused.draft)).account).to.equal(null)

    const { consent } = (await ask()).body
    const back = await consentPage(w, consent, 1007)
    const other = fresh(w)
    await other.signIn('tobias@quillmere.example')
    expect(await other.visit(back)).to.contain('lost=1')
    expect(await w.client.visit(back)).to.contain('draft=')
    expect(await w.client.visit(back), 'a second time').to.contain('lost=1')
  })

  it('makes several lists of one register by what a column says', async () => {
    const found = await begin(w, 'register')
    expect(names(found.account.collections)).to.include.members([
      'Plant work',
      'Plant work: Check',
      'Plant work: Label',
      'Plant work: Loan',
    ])
    const parts = found.account.collections.filter(c => /Check|Label/.test(c.name)).map(c => c.remoteId)
    const id = await keep(w, found, { name: 'Register', takesPart: parts })
    const read = await readOnce(w, id)
    const items = Object.fromEntries(
      read.collections.map((k: { name: string; items: number }) => [k.name, k.items]),
    )
    expect(items).to.include({ 'Plant work: Check': 3, 'Plant work: Label': 2, 'Plant work: Loan': 0 })
    expect(await titlesIn(w, id)).to.not.include('Loan 91')
  })

  it('brings in flagged messages as tasks, and unflags what is completed here', async () => {
    const found = await begin(w, 'mail')
    const id = await keep(w, found, { name: 'Mail' })
    await readOnce(w, id)
    expect(await titlesIn(w, id))
      .to.include('Stop at the lower gate')
      .and.not.include('Swap table')
    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
    const task = items.find((i: { title: string }) => i.title === 'Stop at the lower gate')
    await w.client.call('POST', `/cloth/${task.key}/edit`, { do: 'complete' })
    await until('the flag is off', async () => {
      const answer = await fetch(`${w.standins}/mail/api/trays/gate/messages`, {
        headers: { Authorization: `Basic ${btoa('gatehouse:lower-gate')}` },
      })
      const all = (await answer.json()) as { subject: string; flagged: boolean }[]
      return all.some(m => m.subject === 'Stop at the lower gate' && !m.flagged)
    })
  })

  describe('a service that nobody wrote anything for', () => {
    const text = readFileSync(new URL('../../../docs/examples/seed-slips.json', import.meta.url), 'utf8')
    const given = () => ({ address: `${w.standins}/slips`, key: 'seed-slips-pass' })

    it('is refused with the path of what is wrong in its description', async () => {
      const wrong = { ...JSON.parse(text), fields: { ...JSON.parse(text).fields, status: { as: 'status' } } }
      const answer = await w.client.call('POST', '/connecting/services', {
        description: JSON.stringify(wrong),
      })
      expect(answer.status).to.equal(422)
      expect(answer.body.errors.join('\n')).to.match(/\/fields\/status/)
      const broken = await w.client.call('POST', '/connecting/services', { description: '{ "format": ' })
      expect(broken.body.errors.join()).to.match(/JSON/)
    })

    it('is tried, and each capability is said to work or not', async () => {
      const { body } = await w.client.call('POST', '/connecting/services/trial', {
        description: text,
        list: 'spring',
        ...given(),
      })
      const outcomes = body.checks.map((c: { outcome: string }) => c.outcome)
      expect(outcomes).to.include('works').and.not.include('fails')
      const wrong = await w.client.call('POST', '/connecting/services/trial', {
        description: text.replace('"/slips"', '"/slops"'),
        list: null,
        ...given(),
      })
      expect(wrong.body.checks.map((c: { outcome: string }) => c.outcome)).to.include('fails')
    })

    it('is connected by it, read page by page, and written to', async () => {
      const brought = await w.client.call('POST', '/connecting/services', { description: text })
      expect(brought.status).to.equal(201)
      const begun = await w.client.call('POST', '/connecting/drafts', {
        service: brought.body.id,
        ...given(),
      })
      const found = await draftOf(w, begun.body.draft)
      const id = await keep(w, found, { name: 'Slips' })
      await readOnce(w, id)
      const titles = await titlesIn(w, id)
      expect(titles).to.have.length(13)
      const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=14`)).body
      const slip = items.find((i: { title: string; done: boolean }) => /Sow tray/.test(i.title) && !i.done)
      await w.client.call('POST', `/cloth/${slip.key}/edit`, { do: 'complete' })
      await until('it is planted there', async () => {
        const answer = await fetch(`${w.standins}/slips/slips/${slip.title.split(' ').at(-1)}`, {
          headers: { 'Slips-Pass': 'seed-slips-pass' },
        })
        const { slip: there } = (await answer.json()) as { slip: { standing: number } }
        return there.standing === 2
      })
    })
  })

  describe('nothing by itself', () => {
    it('searches the service live, brings in what was picked, and follows only that', async () => {
      const found = await begin(w, 'bench', { key: 'bench-key-tobias' }).catch(() => begin(w, 'bench'))
      const takesPart = found.account.collections.filter(c => !c.whyNot).map(c => c.remoteId)
      const search = (words: string) =>
        until('the service was read', async () => {
          const answer = await w.client.call('POST', `/connecting/drafts/${found.id}/search`, {
            takesPart,
            words,
          })
          return !answer.body.reading && answer.body
        })
      const everything = await search('')
      const valve = await search('VALVE boiler')
      expect(valve.found.map((f: { title: string }) => f.title)).to.deep.equal(['Boiler valve quote'])
      expect(everything.total).to.be.greaterThan(valve.total)
      const [pick] = valve.found
      const id = await keep(w, found, {
        name: 'Picked',
        scope: { by: 'picked', future: false, filter: [], notes: true },
        picks: [pick.remoteId],
      })
      await readOnce(w, id)
      expect(await titlesIn(w, id)).to.deep.equal(['Boiler valve quote'])
      await w.bench.add('repairs', { text: 'Not picked' })
      await w.bench.edit(pick.remoteId, { text: 'Boiler valve, second quote' })
      await until('the picked one followed', async () =>
        (await titlesIn(w, id)).includes('Boiler valve, second quote'),
      )
      expect(await titlesIn(w, id)).to.have.length(1)
    })
  })

  describe('lists that come later', () => {
    it('take part by themselves where the sentence says so, and are only told of where it does not', async () => {
      const found = await begin(w, 'garden', { user: 'ines', password: 'moonflower' })
      const scope = { by: 'sentence' as const, future: true, filter: [], notes: true }
      const eager = await keep(w, found, { name: 'Eager', scope })
      const other = await begin(w, 'garden', { user: 'ines', password: 'moonflower' })
      const calm = await keep(w, other, { name: 'Calm' })
      await readOnce(w, eager)
      await readOnce(w, calm)
      const made = await w.client.call('POST', `/connections/${calm}/collections`, { name: 'Seed swap' })
      expect(made.status).to.equal(201)
      const seed = (await connectionOf(w, calm)).collections.find(
        (k: { name: string }) => k.name === 'Seed swap',
      )
      expect(seed.takesPart, 'made by us, it takes part at once').to.equal(true)
      await w.garden.put('late-list', '', '').catch(() => undefined)
      await fetch(w.garden.url('lanterns'), {
        method: 'MKCALENDAR',
        headers: { Authorization: `Basic ${btoa('ines:moonflower')}` },
        body: '<C:mkcalendar xmlns:C="urn:ietf:params:xml:ns:caldav" xmlns:D="DAV:"><D:set><D:prop><D:displayname>Lanterns</D:displayname></D:prop></D:set></C:mkcalendar>',
      })
      // What happens by itself every ten minutes, now.
      await w.app.ctx.db.run(
        'UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.discovered_at = 0, l.next_look_at = 0',
      )
      const lanterns = async (id: string) =>
        (await connectionOf(w, id)).collections.find((k: { name: string }) => k.name === 'Lanterns')
      await until('both know of it', async () => (await lanterns(eager)) && (await lanterns(calm)))
      expect((await lanterns(eager)).takesPart).to.equal(true)
      expect((await lanterns(calm)).takesPart).to.equal(false)
      const { body } = await w.client.call('POST', `/connections/${calm}/refresh`)
      expect(body.found, 'nothing is new any more').to.deep.equal([])
    })
  })

  it('shows what opens a service nowhere: not in lists, settings, problems, files, nor in the database', async () => {
    // Passwords of the demo that are words of its tasks, too.
    const PLANTS = ['moonflower', 'glasshouse']
    const { db, secret } = w.app.ctx
    const rows = await db.rows<{ id: string; credentials: string }>('SELECT id, credentials FROM connections')
    const secrets = rows
      .flatMap(r => stringsIn({ ...(unseal(r.credentials, secret) as object), user: '' }))
      .filter(t => t.length > 8 && !PLANTS.includes(t))
    expect(secrets).to.include.members(['bench-key-ines', 'register-key-anouk', 'lower-gate'])
    const answers: unknown[] = [rows]
    for (const { id } of rows)
      for (const path of ['settings', 'problems', 'whereabouts', 'leaving', 'day'])
        answers.push((await w.client.call('GET', `/connections/${id}/${path}`)).body)
    for (const path of [
      '/connections',
      '/journal',
      '/connecting/services',
      '/files/export?format=jscalendar',
    ])
      answers.push((await w.client.call('GET', path)).body)
    const text = JSON.stringify(answers)
    for (const each of secrets) expect(text.includes(each), each.slice(0, 4)).to.equal(false)
  })

  it('refuses a member of elsewhere, a name of nothing, and a form that is not one', async () => {
    const found = await begin(w, 'visits')
    const form = { takesPart: [], scope: { by: 'sentence', future: false, filter: [], notes: true } }
    const whole = { ...form, name: 'X', ownerId: null, meanings: {}, people: {}, dyes: {}, picks: [] }
    const send = (body: object) => w.client.call('POST', `/connecting/drafts/${found.id}/keep`, body)
    expect((await send({ ...whole, ownerId: '00000000-0000-0000-0000-000000000000' })).status).to.equal(422)
    expect((await send({ ...whole, name: '   ' })).status).to.equal(400)
    expect((await send(form)).status).to.equal(400)
    const missing = await w.client.call('POST', '/connecting/drafts', {
      service: GIVEN.garden.service,
      address: w.standins,
    })
    expect(missing.status).to.equal(422)
    expect((await w.client.call('GET', `/connecting/drafts/${found.id}`)).status, 'still there').to.equal(200)
  })
})
