import { createHmac } from 'node:crypto'
import { newTask, noMeaning, type Task, type TaskPatch, zoned } from '@loom/core'
import { expect } from 'chai'
import {
  connect,
  type Connector,
  outbound,
  type RemoteItem,
  type ServiceDescription,
  ServiceError,
} from '../src/index.ts'
import { describeOdd, json, type OddService, oddService } from './support/odd-service.ts'
import { whole } from './support/pages.ts'
import { closeServers } from './support/server.ts'

/** What a description can say, one thing after the other, against a service that does just that. */
describe('http-json', () => {
  afterEach(closeServers)
  let service: OddService
  const open = (
    description: ServiceDescription,
    more: Partial<Parameters<typeof connect>[1]> = {},
  ): Connector =>
    connect(
      { kind: 'http-json', address: `http://${service.host}`, description, credentials: { key: 'k' } },
      {
        http: outbound({ allowed: [service.host], timeoutMs: 2000, maxBytes: 1_000_000 }),
        now: Date.now,
        zone: 'Europe/Dublin',
        ...more,
      },
    )
  const trouble = async (work: Promise<unknown>): Promise<ServiceError> => {
    const error = await work.then(
      () => null,
      (e: unknown) => e,
    )
    expect(error).to.be.instanceOf(ServiceError)
    return error as ServiceError
  }
  const only = async (connector: Connector): Promise<RemoteItem> => {
    const [item] = (await whole(connector, 'one', null)).items
    if (!item) throw new Error('nothing there')
    return item
  }
  const patch = async (connector: Connector, item: RemoteItem, change: TaskPatch) =>
    (
      await connector.write([
        { op: 'patch', collection: 'one', remoteId: item.remoteId, revision: item.revision, patch: change },
      ])
    )[0]

  describe('lists', () => {
    for (const page of ['none', 'cursor', 'page', 'offset', 'link'] as const)
      it(`turns pages by ${page}, and takes a listing up again where it broke off`, async () => {
        service = await oddService(page)
        for (let i = 0; i < 5; i++) service.add({ name: `Task ${i}` })
        service.add({ name: 'Elsewhere', list: 'two' })
        const odd = open(describeOdd(page))
        const { items, full, total } = await whole(odd, 'one', null)
        expect(items.map(i => i.item.summary)).to.deep.equal([0, 1, 2, 3, 4].map(i => `Task ${i}`))
        expect([full, total]).to.deep.equal([true, 5])
        const pages = []
        for await (const p of odd.delta('one', null)) pages.push(p)
        const cursor = pages[0]?.cursor
        if (!cursor) return
        const rest = []
        for await (const p of odd.delta('one', null, { cursor })) rest.push(...p.items)
        expect(rest.map(i => i.item.summary)).to.deep.equal(['Task 2', 'Task 3', 'Task 4'])
      })

    it('does not turn pages in a circle, nor to another server', async () => {
      service = await oddService('cursor')
      service.first = ({ path }) => (path === '/rows' ? json({ rows: [], next: 'again' }) : null)
      expect((await trouble(whole(open(describeOdd('cursor')), 'one', null))).message).to.contain(
        'in a circle',
      )
      service.first = ({ path }) =>
        path === '/rows'
          ? json({ rows: [] }, 200, { Link: '<http://elsewhere.invalid/x>; rel="next"' })
          : null
      expect((await trouble(whole(open(describeOdd('link')), 'one', null))).message).to.contain(
        'names another server',
      )
    })

    it('keeps apart what it cannot read, with the reason', async () => {
      service = await oddService('none')
      service.add({ id: 'fine' })
      service.add({ id: 'odd-day', day: 'whenever' })
      service.add({ id: 'no-rev', rev: undefined })
      service.add({ id: 'huge', name: 'x'.repeat(400_000) })
      const { items, problems } = await whole(open(describeOdd('none')), 'one', null)
      expect(items.map(i => i.remoteId)).to.deep.equal(['fine'])
      expect(problems.map(p => [p.remoteId, p.reason])).to.deep.equal([
        ['odd-day', '“whenever” is not a date.'],
        ['no-rev', 'It has no revision where the description says.'],
        ['huge', 'It is larger than 300 kB.'],
      ])
    })
  })

  describe('changes', () => {
    it('by token: only them, what left, and everything when the token is refused', async () => {
      service = await oddService('none')
      service.add({ name: 'First' })
      const description = describeOdd('none', {
        delta: {
          kind: 'token',
          first: '/all',
          request: { path: '/changes', query: { since: '{since}' } },
          items: '/rows',
          left: '/left',
          next: '/token',
        },
      })
      const odd = open(description)
      const first = await whole(odd, 'one', null)
      expect(first.token).to.equal('1')
      let refuse = false
      service.first = ({ path, query }) =>
        path !== '/changes'
          ? null
          : refuse
            ? json({}, 410)
            : json({
                rows: [
                  { id: 'n', list: 'one', name: `since ${query.get('since') ?? ''}`, state: 'open', rev: 1 },
                ],
                left: ['r1'],
                token: '9',
              })
      const second = await whole(odd, 'one', first.token)
      expect([second.items.map(i => i.item.summary), second.left, second.token, second.full]).to.deep.equal([
        ['since 1'],
        ['r1'],
        '9',
        false,
      ])
      refuse = true
      expect((await whole(odd, 'one', second.token)).full).to.equal(true)
    })

    const byTime = {
      delta: {
        kind: 'updated-since',
        param: 'since',
        field: '/touched',
        overlapSeconds: 90,
        fullEveryMinutes: 10,
      },
    }

    it('by time: from a little before the newest seen, by the service’s own clock, and the whole now and then', async () => {
      service = await oddService('page')
      let now = Date.parse('2026-11-24T12:00:00Z')
      for (const hour of ['09', '08', '10']) service.add({ touched: `2026-11-24T${hour}:00:00Z` })
      const odd = open(describeOdd('page', byTime), { now: () => now })
      const first = await whole(odd, 'one', null)
      service.asked.length = 0
      const second = await whole(odd, 'one', first.token)
      expect(service.asked[0]?.query.get('since')).to.equal('2026-11-24T09:58:30.000Z')
      expect(second.full).to.equal(false)
      now += 11 * 60_000
      expect((await whole(odd, 'one', second.token)).full).to.equal(true)
    })

    it('by time, a list of one page: whole each time, so that a clock that is set back hides nothing', async () => {
      service = await oddService('page')
      service.add({ touched: '2026-11-24T09:00:00Z' })
      const odd = open(describeOdd('page', byTime))
      const first = await whole(odd, 'one', null)
      service.add({ name: 'by a clock that was set back', touched: '2026-11-24T07:00:00Z' })
      const second = await whole(odd, 'one', first.token)
      expect(second.full).to.equal(true)
      expect(second.items.map(i => i.item.summary)).to.include('by a clock that was set back')
    })
  })

  describe('fields', () => {
    it('are read and written by their forms, and come back as they were meant', async () => {
      service = await oddService('none')
      service.add({
        name: 'Order bulbs',
        state: 'doing',
        day: '2026-11-25',
        hour: '09:30',
        last: '2026-11-27',
        effort: 3,
        weight: 1,
        who: [{ no: 7 }, { no: 9 }],
        tags: ['bulbs'],
        repeat: { every: 'week' },
      })
      const odd = open(describeOdd('none'))
      const item = await only(odd)
      const task = item.item as Task
      expect([task.status, task.start, task.due, task.estimatedDuration, task.priority]).to.deep.equal([
        'in-process',
        zoned('2026-11-25T09:30:00', 'Europe/Dublin'),
        { kind: 'date', date: '2026-11-27' },
        90,
        1,
      ])
      expect([task.assignees, task.categories, task.recurring]).to.deep.equal([['7', '9'], ['bulbs'], true])
      await patch(odd, item, {
        summary: 'A title that is longer than twenty characters',
        start: zoned('2026-11-26T13:15:00', 'Asia/Kathmandu'),
        due: null,
        estimatedDuration: 45,
        priority: 7,
        assignees: ['9'],
        categories: [],
        status: 'completed',
      })
      const row = service.rows.get(item.remoteId)
      expect(row).to.include({
        name: 'A title that is long',
        day: '2026-11-26',
        hour: '07:30',
        last: null,
        effort: 1.5,
        weight: 2,
        state: 'shut',
      })
      expect(row?.who).to.deep.equal([9])
    })

    it('change places where a person says that its dates mean the other', async () => {
      service = await oddService('none')
      service.add({ day: '2026-11-25', last: '2026-11-27' })
      const meanings = {
        one: {
          ...noMeaning,
          statuses: { open: 'needs-action' as const, shut: 'completed' as const },
          swapDates: true,
        },
      }
      const odd = open(describeOdd('none'), { meanings })
      const item = await only(odd)
      const { start, due } = item.item as Task
      expect([start, due]).to.deep.equal([
        { kind: 'date', date: '2026-11-27' },
        { kind: 'date', date: '2026-11-25' },
      ])
      await patch(odd, item, { start: { kind: 'date', date: '2026-12-01' } })
      expect(service.rows.get(item.remoteId)).to.include({ day: '2026-11-25', last: '2026-12-01' })
      const read = await odd.read('one', item.remoteId)
      expect(read.kind === 'found' && (read.item.item as Task).start).to.deep.equal({
        kind: 'date',
        date: '2026-12-01',
      })
    })

    it('carry our reference in the notes where the service has no place for one, out of sight', async () => {
      service = await oddService('none')
      const description = describeOdd('none')
      const odd = open({
        ...description,
        fields: { ...description.fields, description: { as: 'text', at: '/note' } },
      })
      const task = newTask('mine@loom', { summary: 'Mine', description: 'Two trays.' })
      const create = (triedAgoMs: number | null) =>
        odd.write([{ op: 'create', collection: 'one', item: task, triedAgoMs }])
      await create(null)
      const [again] = await create(0)
      expect(service.rows.size, 'asked again, it finds what it made').to.equal(1)
      expect(again?.kind === 'done' && again.ours).to.equal(false)
      const item = await only(odd)
      expect([item.item.uid, item.item.description]).to.deep.equal(['mine@loom', 'Two trays.'])
      // Its outcome is known: from now on the notes are their writer's alone.
      await patch(odd, item, { description: 'Two trays.' })
      expect([...service.rows.values()][0]).to.have.property('note', 'Two trays.')
      expect((await only(odd)).item).to.include({ description: 'Two trays.' })
    })
  })

  describe('operations', () => {
    it('of several steps hand on what they learn, and stop at what goes wrong', async () => {
      service = await oddService('none')
      const row = service.add({})
      const description = describeOdd('none', {
        operations: {
          complete: {
            steps: [
              { method: 'POST', path: '/tickets', keep: { ticket: '/no' } },
              {
                method: 'PATCH',
                path: '/rows/{id}',
                body: { state: 'shut', ticket: '{ticket}' },
                when: { at: '/good', is: true },
                item: '/row',
              },
            ],
          },
        },
      })
      let good = true
      service.first = ({ path, method, body }) => {
        if (path === '/tickets') return json({ no: 77 })
        if (method !== 'PATCH') return null
        Object.assign(row, JSON.parse(body))
        return json({ good, row })
      }
      const odd = open(description)
      const item = await only(odd)
      expect((await patch(odd, item, { status: 'completed' }))?.kind).to.equal('done')
      expect(row.ticket).to.equal(77)
      good = false
      expect(await patch(odd, await only(odd), { status: 'completed' })).to.deep.equal({
        kind: 'refused',
        reason: `${service.host} did not confirm it.`,
      })
      expect(await patch(odd, await only(odd), { summary: 'x' })).to.deep.equal({
        kind: 'refused',
        reason: 'Odd lets nobody change this from outside.',
      })
    })

    it('read first where the service checks nothing itself', async () => {
      service = await oddService('none')
      const row = service.add({})
      const odd = open(describeOdd('none'))
      const item = await only(odd)
      Object.assign(row, { rev: 2, name: 'Somebody else’s' })
      expect((await patch(odd, item, { summary: 'Mine' }))?.kind).to.equal('conflict')
      expect(row.name).to.equal('Somebody else’s')
    })

    it('go together where the service takes several, each with its own outcome', async () => {
      service = await oddService('none')
      const description = describeOdd('none', {
        fields: {
          summary: { as: 'text', at: '/name' },
          uid: { as: 'text', at: '/ref' },
          status: { as: 'status', at: '/state' },
        },
        preconditions: true,
        batch: {
          request: { method: 'POST', path: '/many', body: { changes: '{changes}' } },
          max: 10,
          create: { make: '{fields}' },
          change: { change: '{id}', fields: '{fields}' },
          delete: { drop: '{id}' },
          results: '/results',
          status: '/code',
          item: '/row',
          error: '/why',
        },
      })
      service.first = ({ path }) =>
        path === '/many'
          ? json({
              results: [
                { code: 201, row: { id: 'a', list: 'one', name: 'Made', state: 'open', rev: 1 } },
                { code: 409 },
                { code: 404 },
                { code: 422, why: 'too late' },
              ],
            })
          : null
      const odd = open(description)
      expect(odd.capabilities.batch).to.equal(10)
      const at = { collection: 'one', remoteId: 'r', revision: '1' }
      const results = await odd.write([
        { op: 'create', collection: 'one', item: newTask('u', { summary: 'Made' }), triedAgoMs: null },
        { op: 'patch', ...at, patch: { summary: 'x' } },
        { op: 'delete', ...at },
        { op: 'patch', ...at, patch: { summary: 'y' } },
        { op: 'delete', ...at },
      ])
      expect(results.map(r => r.kind)).to.deep.equal(['done', 'conflict', 'absent', 'refused', 'retry'])
      expect(results[3]).to.have.property('reason', `${service.host} refused it: too late.`)
    })
  })

  describe('trouble', () => {
    it('has a name for each kind of answer', async () => {
      service = await oddService('none')
      const odd = open(describeOdd('none'))
      const cases: [() => ReturnType<typeof json>, string, RegExp][] = [
        [() => json({}, 401), 'signed-out', /did not accept these credentials/],
        [() => json({}, 429, { 'Retry-After': '3' }), 'slowed', /slow down/],
        [() => json({}, 502), 'service-error', /trouble of its own \(status 502\)/],
        [() => ({ body: '<html>maintenance</html>' }), 'not-this-protocol', /with a web page, not as Odd/],
        [() => json({ error: 'no such plan' }, 400), 'refused', /refused it: no such plan\./],
        [() => json({ rows: 'none' }), 'not-this-protocol', /but not as Odd/],
      ]
      for (const [answer, kind, words] of cases) {
        service.first = ({ path }) => (path === '/rows' ? answer() : null)
        const error = await trouble(whole(odd, 'one', null))
        expect([error.trouble, words.test(error.message)], error.message).to.deep.equal([kind, true])
      }
    })

    it('inside a 200 is trouble all the same', async () => {
      service = await oddService('none')
      service.add({})
      const odd = open(
        describeOdd('none', {
          failure: {
            ok: { at: '/ok', is: true },
            code: '/code',
            words: '/words',
            waitSeconds: '/wait',
            slowed: ['busy'],
            signedOut: ['who'],
            missing: ['none'],
          },
        }),
      )
      for (const [body, kind] of [
        [{ ok: false, code: 'busy', wait: 4 }, 'slowed'],
        [{ ok: false, code: 'who' }, 'signed-out'],
        [{ ok: false, code: 'odd', words: 'Not today.' }, 'refused'],
      ] as const) {
        service.first = () => json(body)
        const error = await trouble(odd.discover())
        expect(error.trouble).to.equal(kind)
        if (kind === 'slowed') expect(error.retryAfterMs).to.equal(4000)
      }
      service.first = () => json({ ok: false, code: 'none' })
      expect(await odd.read('one', 'r1')).to.deep.equal({ kind: 'absent' })
    })
  })

  it('believes a notification only with the right seal', async () => {
    service = await oddService('none')
    const odd = open(
      describeOdd('none', {
        notifications: {
          request: { method: 'POST', path: '/hooks', body: { url: '{callback}', secret: '{secret}' } },
          signature: { header: 'Odd-Seal', prefix: 'sha256=' },
          item: '/row',
        },
      }),
    )
    service.first = ({ path }) => (path === '/hooks' ? json({}) : null)
    await odd.subscribe?.('http://me.invalid/hooks/1', 's3cret')
    expect(JSON.parse(service.asked.at(-1)?.body ?? '')).to.deep.equal({
      url: 'http://me.invalid/hooks/1',
      secret: 's3cret',
    })
    const body = JSON.stringify({ row: 'r7' })
    const seal = (secret: string) => `sha256=${createHmac('sha256', secret).update(body).digest('hex')}`
    const told = (value: string | undefined) => odd.notified(body, () => value, 's3cret')?.item ?? null
    expect([told(seal('s3cret')), told(seal('other')), told(undefined), told('sha256=')]).to.deep.equal([
      'r7',
      null,
      null,
      null,
    ])
  })

  it('keeps to so many requests in so many seconds', async () => {
    const { Pace } = await import('../src/index.ts')
    service = await oddService('none')
    const odd = open(describeOdd('none'), { pace: new Pace(2, 0.2) })
    await Promise.all([
      odd.read('one', 'a'),
      odd.read('one', 'b'),
      odd.read('one', 'c'),
      odd.read('one', 'd'),
    ])
    expect(service.asked.filter(a => a.path.startsWith('/rows/'))).to.have.length(4)
  })
})
