import { expect } from 'chai'
import { connectionOf, titlesIn } from './support/connecting.ts'
import { now } from './support/clock.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/**
 * Every stand-in, with every trouble switched on in turn and off again: the health line tells the truth within
 * seconds, and afterwards both sides agree.
 */
describe('health', function () {
  this.timeout(120_000)
  let w: World
  const SERVICES = ['garden', 'visits', 'bench', 'board', 'register', 'mail'] as const
  type Service = (typeof SERVICES)[number]
  const NAMES: Record<Service, string> = {
    garden: 'Garden Calendars',
    visits: 'School Visits',
    bench: 'Bench List',
    board: 'Repairs Board',
    register: 'Plant Register',
    mail: 'Gatehouse Mail',
  }
  const ids = {} as Record<Service, string>
  const held = {} as Record<Service, string[]>

  before(async () => {
    w = await startWorld({ size: 'whole' })
    // All of them are the team's, so that its coordinator looks after them.
    await w.app.ctx.db.run('UPDATE connections SET owner_id = NULL')
    const { connections } = (await w.client.call('GET', '/connections')).body
    for (const s of SERVICES) ids[s] = connections.find((c: { name: string }) => c.name === NAMES[s]).id
    await Promise.all(SERVICES.map(s => well(s)))
    await until(
      'the first pass is through',
      async () => (await w.garden.events('festival-work')).length >= 5,
      30_000,
    )
    for (const s of SERVICES) held[s] = await titlesIn(w, ids[s])
  })
  after(() => w.close())
  afterEach(() => Promise.all(SERVICES.map(s => w.fault(s, {}))))

  const connection = (service: Service) => connectionOf(w, ids[service])
  const look = (service: Service) => w.client.call('POST', `/connections/${ids[service]}/look`)
  /** In step, after a pass that began from now on. */
  async function well(service: Service): Promise<void> {
    const since = (await connection(service)).lastOkAt ?? 0
    await until(
      `${service} is in step`,
      async () => {
        await look(service)
        const c = await connection(service)
        return (
          c.state === 'ok' &&
          c.lastOkAt > since &&
          c.collections.every((k: { takesPart: boolean; syncedAt: unknown }) => !k.takesPart || k.syncedAt)
        )
      },
      30_000,
    )
  }
  const told = (service: Service, what: string, test: (c: any) => boolean, withinMs = 12_000) =>
    until(
      `${service}: ${what}`,
      async () => {
        const c = await connection(service)
        if (test(c)) return true
        await look(service)
        return false
      },
      withinMs,
    )

  /** Something made on the service's own page, which no trouble of its interface touches. */
  async function make(service: Service, title: string): Promise<void> {
    const [path, form] = {
      garden: ['ines/house-repairs', { summary: title, day: weekDay(2), from: '07:00', to: '07:30' }],
      visits: ['new', { school: title, day: weekDay(2), from: '07:00', to: '07:30' }],
      bench: ['lists/repairs', { text: title }],
      board: ['crews/c-glass', { title }],
      register: ['e1', { heading: title, k3: 'kw1', k7: 'st2' }],
      mail: ['new/gate', { subject: title }],
    }[service] as [string, Record<string, string>]
    const answer = await fetch(`${w.standins}/${service}/page/${path}`, {
      method: 'POST',
      body: new URLSearchParams(form),
      redirect: 'manual',
    })
    if (answer.status >= 400) throw new Error(`${service}: ${answer.status} ${await answer.text()}`)
  }
  const isIn = async (service: Service, title: string): Promise<boolean> =>
    (await titlesIn(w, ids[service])).some(t => t.includes(title))
  /** What was made meanwhile is in, and nothing that was in before has gone. */
  async function agrees(service: Service, title: string): Promise<void> {
    await well(service)
    await until(`${service} has brought ${title}`, async () => (await look(service)) && isIn(service, title))
    const now = await titlesIn(w, ids[service])
    // An entry of the register is renamed each time, elsewhere something is added.
    if (service === 'register') expect(now).to.have.length(held.register.length)
    else expect(now, service).to.include.members(held[service])
    held[service] = now
  }

  const TROUBLES: [string, object, string, RegExp][] = [
    ['asks to slow down', { status: 429, retryAfter: 1 }, 'slowed', /slow down/],
    ['is unavailable', { status: 503 }, 'failing', /trouble of its own \(status 503\)/],
    ['breaks off before anything happens', { drop: 'before' }, 'failing', /broke off/],
    ['breaks off after it has happened', { drop: 'after' }, 'failing', /broke off/],
    ['shows a web page', { html: true }, 'failing', /web page/],
    ['never answers', { hang: true }, 'failing', /did not answer within/],
    ['has let the sign-in expire', { expired: true }, 'signed-out', /credentials|sign/i],
  ]
  for (const [what, faults, state, words] of TROUBLES)
    it(`is told of each service that ${what}, and of each that is well again`, async () => {
      await Promise.all(
        SERVICES.map(async service => {
          const title = `While it ${what}`
          await w.fault(service, faults)
          await told(service, what, c => c.state === state && words.test(c.trouble), 20_000)
          const c = await connection(service)
          expect(c.failingSince, 'since when').to.be.a('number')
          expect(c.nextTryAt, 'next try').to.be.a('number')
          await make(service, title)
          await w.fault(service, {})
          await agrees(service, title)
          expect(await connection(service)).to.include({ trouble: null, failingSince: null })
        }),
      )
    })

  it('stays in step with services that are only slow, or whose clock is wrong', async () => {
    for (const [what, faults] of [
      ['slow', { latencyMs: 700 }],
      ['fast clock', { skewMs: 420_000 }],
      ['slow clock', { skewMs: -420_000 }],
    ] as const) {
      await Promise.all(
        SERVICES.map(async service => {
          await w.fault(service, faults)
          await make(service, `With a ${what}`)
          await agrees(service, `With a ${what}`)
          expect((await connection(service)).state, service).to.equal('ok')
          await w.fault(service, {})
        }),
      )
    }
  })

  it('loses nothing to listings that leave something out, nor to tokens that are refused', async () => {
    for (const faults of [{ incomplete: true }, { staleToken: true }, { staleToken: true, incomplete: true }])
      await Promise.all(
        SERVICES.filter(s => s !== 'visits').map(async service => {
          await w.fault(service, faults)
          await well(service)
          await well(service)
          expect(await titlesIn(w, ids[service]), `${service} ${JSON.stringify(faults)}`).to.have.members(
            held[service],
          )
          await w.fault(service, {})
        }),
      )
    for (const service of SERVICES) {
      await make(service, 'After the gaps')
      await agrees(service, 'After the gaps')
    }
  })

  it('takes nothing out for a feed that has shrunk to nothing, and says so', async () => {
    await w.fault('visits', { empty: true })
    await told('visits', 'it is reported', c => /empty|nothing/i.test(JSON.stringify(c)), 20_000)
    expect(await titlesIn(w, ids.visits)).to.have.members(held.visits)
    await w.fault('visits', {})
    await well('visits')
    expect((await connection('visits')).collections[0].trouble).to.equal(null)
  })

  it('goes on when notifications are lost, come three times, or in the wrong order', async () => {
    for (const notifications of ['lost', 'repeated', 'reordered'] as const)
      for (const service of ['bench', 'board'] as const) {
        await w.fault(service, { notifications })
        await make(service, `Notifications ${notifications}`)
        await until(
          `${service} ${notifications}`,
          () => isIn(service, `Notifications ${notifications}`),
          15_000,
        )
        const now = await titlesIn(w, ids[service])
        expect(
          now.filter(t => t === `Notifications ${notifications}`),
          'once',
        ).to.have.length(1)
        held[service] = now
        await w.fault(service, {})
      }
  })

  it('refreshes a sign-in that has run out without asking anybody', async () => {
    await fetch(`${w.standins}/board/oauth/expire`, { method: 'POST' })
    await make('board', 'After the token')
    await agrees('board', 'After the token')
    expect((await connection('board')).state).to.equal('ok')
  })

  it('tells of a feed that has failed for an hour: since when, why, and when it is tried next', async () => {
    const { connections } = (await w.client.call('GET', '/connections')).body
    const feed = connections.find((c: { name: string }) => c.name === 'Autumn Visits')
    expect(feed).to.include({ state: 'failing' })
    expect(feed.trouble).to.match(/status 500/)
    expect(now() - feed.failingSince).to.be.greaterThan(3_500_000)
    expect(feed.nextTryAt).to.be.a('number')
  })

  it('draws a day: passes, items, delays and errors in slots of ten minutes', async () => {
    const { slots, slotMs } = (await w.client.call('GET', `/connections/${ids.bench}/day`)).body
    expect(slotMs).to.equal(600_000)
    expect(slots.length).to.be.greaterThan(100)
    // A slot may have begun a moment ago: what this test did stands in the last of them.
    const lately = (f: string): number =>
      slots.slice(-3).reduce((n: number, s: Record<string, number>) => n + (s[f] ?? 0), 0)
    expect(lately('passes')).to.be.greaterThan(5)
    expect(lately('errors')).to.be.greaterThan(2)
    expect(lately('items')).to.be.greaterThan(2)
    // Nothing was written here, but on the day before it was.
    const writes = slots.reduce((n: number, s: { writes: number }) => n + s.writes, 0)
    expect(writes).to.be.greaterThan(0)
  })
})
