import { type Meaning, suggestedMeaning } from '@loom/core'
import { expect } from 'chai'
import {
  begin,
  beginBoard,
  connectionOf,
  consentPage,
  type Form,
  type Found,
  formFor,
  keep,
  readOnce,
  titlesIn,
} from './support/connecting.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What comes in and what its words mean, changed later: first what it would do, then that it does it. */
describe('changing a connection later', function () {
  this.timeout(60_000)
  let w: World
  let board: string
  let form: Form
  const OPEN = [{ field: 'status', is: ['needs-action', 'in-process'] }]

  before(async () => {
    w = await startWorld()
    const found = await beginBoard(w)
    form = formFor(found, {
      name: 'Repairs Board',
      meanings: meaningsOf(found),
      people: Object.fromEntries(found.account.people.map(p => [p.id, p.memberId])),
    })
    board = await keep(w, found, form)
    await readOnce(w, board)
  })
  after(() => w.close())

  const meaningsOf = (found: Found): Record<string, Meaning> =>
    Object.fromEntries(
      found.account.collections
        .filter(c => c.itemKind === 'task')
        .map(c => [c.remoteId, suggestedMeaning(c.terms)]),
    )
  const effect = (id: string, next: object) =>
    until('what would come in is known', async () => {
      const { body } = await w.client.call('POST', `/connections/${id}/settings/effect`, next)
      return !body.reading && body
    })
  const save = async (id: string, next: object): Promise<void> => {
    expect((await w.client.call('PUT', `/connections/${id}/settings`, next)).status).to.equal(200)
  }
  const item = async (title: string) => {
    const { body } = await w.client.call('GET', `/cloth?from=${weekDay(-7)}&days=14`)
    const later = await w.client.call('GET', `/cloth?from=${weekDay(7)}&days=14`)
    return [...body.items, ...later.body.items].find((i: { title: string }) => i.title === title)
  }

  const progress = async (title: string): Promise<string> => {
    const { body } = await w.client.call('GET', '/files/export?format=jscalendar')
    const entry = body.entries.find((e: { title: string }) => e.title === title)
    // RFC 8984 §5.2.5: without one, nothing was begun.
    return entry && (entry.progress ?? 'needs-action')
  }

  it('says what a narrower sentence takes out and what a wider one brings in, and does just that', async () => {
    const paths = form.takesPart.find(id => id.includes('paths')) ?? ''
    const narrower = { ...form, takesPart: [paths] }
    const out = await effect(board, narrower)
    expect(out).to.include({ out: 7, stays: 4, coming: 0, tied: 0 })
    expect(out.outExamples).to.have.length(5)
    await save(board, narrower)
    await until('they are out', async () => (await titlesIn(w, board)).length === 4)
    const back = await effect(board, form)
    expect(back).to.include({ out: 0, stays: 4, coming: 7 })
    await save(board, form)
    await until('they are in again', async () => (await titlesIn(w, board)).length === 11)
  })

  it('takes what is picked one by one, and says what that leaves', async () => {
    const { body } = await w.client.call('POST', `/connections/${board}/settings/search`, {
      takesPart: form.takesPart,
      words: 'hinge',
    })
    expect(body.found).to.have.length(1)
    const picked = {
      ...form,
      scope: { ...form.scope, by: 'picked' },
      picks: [body.found[0].remoteId],
    }
    expect(await effect(board, picked)).to.include({ out: 10, stays: 1 })
  })

  it('puts another meaning of their words in force at once, for what is in as well', async () => {
    const glass = form.takesPart.find(id => id.includes('glass')) ?? ''
    const suggested = form.meanings[glass] as Meaning
    const statuses = { ...suggested.statuses, g2: 'completed', g5: 'completed' } as Meaning['statuses']
    const meaning: Meaning = { ...suggested, statuses, write: { completed: 'g5' } }
    const next = { ...form, meanings: { ...form.meanings, [glass]: meaning } }
    expect(await progress('Vent motor, House 3')).to.equal('in-process')
    await save(board, next)
    expect(await progress('Vent motor, House 3'), 'at once').to.equal('completed')
    const pane = await item('Cracked pane above the cacti')
    await w.client.call('POST', `/cloth/${pane.key}/edit`, { do: 'complete' })
    await until(
      'the crew reads the word that was chosen',
      async () => (await w.board.titled('c-glass', 'Cracked pane above the cacti'))?.stage === 'g5',
    )
    await save(board, form)
  })

  it('reads their deadline as the plan where somebody says so, and writes it back there', async () => {
    const glass = form.takesPart.find(id => id.includes('glass')) ?? ''
    const swapped = { ...(form.meanings[glass] as Meaning), swapDates: true }
    const before = await item('Mist line, House 2')
    expect(before.due?.date ?? before.due).to.not.equal(null)
    await save(board, { ...form, meanings: { ...form.meanings, [glass]: swapped } })
    const planned = await until('it lies on its day', async () => {
      const found = await item('Mist line, House 2')
      return found?.place.kind === 'day' ? found : null
    })
    expect(planned.due).to.equal(null)
    await save(board, form)
    await until('it is a deadline again', async () => (await item('Mist line, House 2'))?.due)
  })

  it('asks to say what a status means that nobody has named, and keeps what the item had', async () => {
    const found = await begin(w, 'register')
    const list = found.account.collections.find(c => c.name === 'Plant work')
    const remoteId = list?.remoteId ?? ''
    const suggested = meaningsOf(found)[remoteId] as Meaning
    const { st4, ...known } = suggested.statuses
    expect(st4).to.equal('cancelled')
    const id = await keep(w, found, {
      name: 'Register',
      takesPart: [remoteId],
      meanings: { [remoteId]: { ...suggested, statuses: known } },
    })
    await until('the word without a meaning is named', async () => {
      const c = await connectionOf(w, id)
      return c.collections.some((k: { unknownStatuses: string[] }) => k.unknownStatuses.includes('Dropped'))
    })
    expect(await progress('Loan 91')).to.equal('needs-action')
    const settings = (await w.client.call('GET', `/connections/${id}/settings`)).body
    expect(settings.collections.find((k: { name: string }) => k.name === 'Plant work').unknown).to.deep.equal(
      ['st4'],
    )
    await save(id, formFor(found, { name: 'Register', takesPart: [remoteId], meanings: meaningsOf(found) }))
    expect(await progress('Loan 91')).to.equal('cancelled')
    await until('nothing is left to say', async () =>
      (await connectionOf(w, id)).collections.every(
        (k: { unknownStatuses: string[] }) => k.unknownStatuses.length === 0,
      ),
    )
  })

  it('tells where everything is that one does not see', async () => {
    const { places } = (await w.client.call('GET', `/connections/${board}/whereabouts`)).body
    const of = (place: string) => places.find((p: { place: string }) => p.place === place)
    const total = places.reduce((n: number, p: { count: number }) => n + p.count, 0)
    expect(total).to.equal(11)
    expect(of('shelf').items.map((i: { title: string }) => i.title)).to.include('Second vent motor, House 3')
    await save(board, { ...form, scope: { ...form.scope, filter: OPEN } })
    const without = form.takesPart.filter(id => !id.includes('paths'))
    await save(board, { ...form, takesPart: without })
    await until('the list that takes no part is named', async () => {
      const { body } = await w.client.call('GET', `/connections/${board}/whereabouts`)
      return body.places.some((p: { place: string; count: number }) => p.place !== 'shelf' && p.count >= 4)
    })
    await save(board, form)
    await until('all are back', async () => (await titlesIn(w, board)).length === 11)
  })

  it('finds by words what came in, and what the service has that never came in', async () => {
    const where = async (query: string) =>
      (await w.client.call('GET', `/connections/${board}/whereabouts?${query}`)).body
    await w.client.call('PUT', `/connections/${board}/paused`, { paused: true })
    const order = await w.board.add('c-paths', { title: 'Swept last year' })
    const found = await where('words=VENT second')
    expect(found.places.map((p: { place: string }) => p.place)).to.include('shelf')
    const [motor] = found.places.flatMap((p: { items: { title: string; key: string }[] }) => p.items)
    expect(motor.title).to.equal('Second vent motor, House 3')
    expect((await w.client.call('GET', `/cloth/${motor.key}`)).body.item.title).to.equal(motor.title)
    await until('the service was looked through', async () => {
      const { places, reading } = await where('words=last swept')
      const never = places.find((p: { place: string }) => p.place === 'never-in')
      return !reading && never?.items[0]?.title === 'Swept last year'
    })
    expect((await where('words=nothing of the kind')).places).to.deep.equal([])
    expect((await w.client.call('GET', `/connections/${board}/whereabouts?whole=x`)).status).to.equal(400)
    await w.board.remove(order?.number ?? '')
    await w.client.call('PUT', `/connections/${board}/paused`, { paused: false })
  })

  it('brings in nothing that was asked for before it was paused and told after', async () => {
    const looks = async (): Promise<number> => {
      const { slots } = (await w.client.call('GET', `/connections/${board}/day`)).body
      return slots.reduce((n: number, s: { passes: number }) => n + s.passes, 0)
    }
    await until('it rests', async () => (await connectionOf(w, board)).lastOkAt !== null)
    const before = await looks()
    await w.fault('board', { latencyMs: 600, method: 'GET' })
    await save(board, form)
    await w.client.call('PUT', `/connections/${board}/paused`, { paused: true })
    const order = await w.board.add('c-glass', { title: 'Told while it was paused' })
    await until('what was under way is over', async () => (await looks()) > before)
    await w.fault('board', {})
    expect(await titlesIn(w, board)).to.have.length(11)
    await w.board.remove(order?.number ?? '')
    await w.client.call('PUT', `/connections/${board}/paused`, { paused: false })
    await until('it was read again', async () => (await looks()) > before + 1)
  })

  it('rests while paused, and brings what happened meanwhile when it goes on', async () => {
    await w.client.call('PUT', `/connections/${board}/paused`, { paused: true })
    const { items } = (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
    const hinge = items.find((i: { title: string }) => i.title === 'Lower gate hinge')
    await w.client.call('POST', `/cloth/${hinge.key}/edit`, {
      do: 'rename',
      title: 'Hinge of the lower gate',
    })
    expect((await connectionOf(w, board)).paused).to.equal(true)
    const leaving = (await w.client.call('GET', `/connections/${board}/leaving`)).body
    expect(leaving).to.include({ items: 11, rules: 0, ties: 0, waiting: 1 })
    expect(await w.board.titled('c-paths', 'Lower gate hinge')).to.not.equal(undefined)
    await w.client.call('PUT', `/connections/${board}/paused`, { paused: false })
    await until('what waited is sent', () => w.board.titled('c-paths', 'Hinge of the lower gate'))
  })

  it('follows an order that gets another number with another crew', async () => {
    const title = 'Handrail, moss steps'
    const order = await w.board.titled('c-paths', title)
    const moved = await w.board.move(order?.number ?? '', 'c-glass')
    expect(moved?.number).to.not.equal(order?.number)
    await until('it stands with the other crew, once', async () => {
      // The lists first: each is read on its own, so the titles of before the new list was read may
      // still be one, and those of a moment later two, until the old list is read as well.
      const { collections } = await connectionOf(w, board)
      const glass = collections.find((k: { name: string }) => k.name === 'Glasshouse crew')
      const titles = await titlesIn(w, board)
      return titles.filter(t => t === title).length === 1 && glass.items === 8
    })
  })

  it('takes nobody of elsewhere for its owner, nor for one of its people', async () => {
    const nobody = '00000000-0000-0000-0000-000000000000'
    for (const wrong of [{ ownerId: nobody }, { people: { ...form.people, '1044': nobody } }]) {
      const answer = await w.client.call('PUT', `/connections/${board}/settings`, { ...form, ...wrong })
      expect(answer.status).to.equal(422)
      expect(answer.body.reason).to.match(/no member/)
    }
  })

  it('signs in again on the consent page and loses nothing', async () => {
    const before = await titlesIn(w, board)
    const { consent } = (await w.client.call('PUT', `/connections/${board}/credentials`, {})).body
    const led = await w.client.visit(await consentPage(w, consent, 1007))
    const draft = new URL(led, w.client.base).searchParams.get('draft')
    const done = await w.client.call('POST', `/connections/${board}/consented/${draft}`)
    expect(done.status).to.equal(200)
    expect(await titlesIn(w, board)).to.deep.equal(before)
    expect(
      (await w.client.call('POST', `/connections/${board}/consented/${draft}`)).status,
      'good once',
    ).to.equal(404)
  })

  it('does not sign in as somebody else', async () => {
    const { consent } = (await w.client.call('PUT', `/connections/${board}/credentials`, {})).body
    const led = await w.client.visit(await consentPage(w, consent, 1012))
    const draft = new URL(led, w.client.base).searchParams.get('draft')
    const done = await w.client.call('POST', `/connections/${board}/consented/${draft}`)
    expect([done.status, done.body.reason]).to.deep.equal([
      422,
      'This is another account, that of Bram Castelijn. “Repairs Board” stays signed in as it was. Connect the other account as a connection of its own.',
    ])
    expect((await connectionOf(w, board)).state).to.equal('ok')
  })

  it('stops an import that is under way, and takes back what had come in of it', async () => {
    await w.fault('mail', { latencyMs: 1500 })
    const id = await keep(w, await begin(w, 'mail'), { name: 'Slow mail' })
    const importing = await connectionOf(w, id)
    expect(importing.collections.every((k: { syncedAt: unknown }) => k.syncedAt === null)).to.equal(true)
    await w.client.call('POST', `/connections/${id}/cancel-import`)
    await w.fault('mail', {})
    await until('it rests', async () => (await connectionOf(w, id)).lastOkAt !== null)
    const after = await connectionOf(w, id)
    expect(
      after.collections.map((k: { takesPart: boolean; items: number }) => [k.takesPart, k.items]),
    ).to.deep.equal([
      [false, 0],
      [false, 0],
    ])
  })

  it('disconnects: its items go here, and stay there', async () => {
    await w.client.call('DELETE', `/connections/${board}`)
    expect(await connectionOf(w, board)).to.equal(undefined)
    expect(await item('Vent motor, House 3')).to.equal(undefined)
    expect(await w.board.titled('c-glass', 'Vent motor, House 3')).to.include({ urgency: 'at once' })
  })
})
