import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { listen } from '@loom/standins'
import { newTask } from '@loom/core'
import { expect } from 'chai'
import { connect, type ConnectionInput, type Connector, outbound } from '../src/index.ts'
import { eventText, oddDav } from './support/odd-dav.ts'
import { whole, shipped } from './support/pages.ts'
import { closeServers } from './support/server.ts'

/** A glance tells whether anything has moved: always where something has, and seldom where nothing has. */
describe('a glance at an account', () => {
  let running: Awaited<ReturnType<typeof listen>>
  const open = (host: string, input: Record<string, unknown>): Connector =>
    connect({ address: `http://${host}`, ...input } as ConnectionInput, {
      http: outbound({ allowed: [host.replace(/\/.*/, '')], timeoutMs: 2000, maxBytes: 1_000_000 }),
      now: Date.now,
      zone: 'Europe/Dublin',
    })
  /** The tokens after reading everything. */
  const read = async (connector: Connector, collections: string[]): Promise<Map<string, string | null>> => {
    const since = new Map<string, string | null>()
    for (const c of collections) since.set(c, (await whole(connector, c, null)).token)
    return since
  }

  before(async () => {
    running = await listen(mkdtempSync(join(tmpdir(), 'standins-')), 0)
  })
  after(() => running.close())
  afterEach(closeServers)

  const services: [string, () => Connector, number][] = [
    [
      'CalDAV',
      () =>
        open(`127.0.0.1:${running.port}`, {
          kind: 'caldav',
          credentials: { user: 'ines', password: 'moonflower' },
        }),
      1,
    ],
    [
      'a list of lists with marks',
      () =>
        open(`127.0.0.1:${running.port}/bench`, {
          kind: 'http-json',
          description: shipped('bench-list'),
          credentials: { key: 'bench-key-ines' },
        }),
      1,
    ],
    [
      'a service without marks',
      () => {
        const { collections, ...rest } = shipped('bench-list')
        const { changed: _, ...unmarked } = collections
        return open(`127.0.0.1:${running.port}/bench`, {
          kind: 'http-json',
          description: { ...rest, collections: unmarked },
          credentials: { key: 'bench-key-ines' },
        })
      },
      2,
    ],
  ]
  for (const [name, connector, requests] of services)
    it(`marks what has moved, and only that: ${name}`, async () => {
      const c = connector()
      const { collections } = await c.discover()
      const [one, other] = collections.filter(k => k.writable).map(k => k.remoteId)
      if (!one || !other || !c.glance) throw new Error('too few lists')
      const since = await read(c, [one, other])
      const before = await c.glance(since)
      expect([...before.marks.keys()]).to.have.members([one, other])
      expect(before.requests).to.equal(requests)
      expect((await c.glance(since)).marks).to.deep.equal(before.marks)
      const kind = collections.find(k => k.remoteId === one)?.itemKind
      const item =
        kind === 'task'
          ? newTask(`${name}@glance`, { summary: 'New' })
          : (await c.interpret(one, eventText(`${name}@glance`, 'New')))?.item
      if (!item) throw new Error('no item')
      const [made] = await c.write([{ op: 'create', collection: one, item, triedAgoMs: null }])
      expect(made?.kind, JSON.stringify(made)).to.equal('done')
      const after = await c.glance(since)
      expect(after.marks.get(one)).to.not.equal(before.marks.get(one))
      expect(after.marks.get(other)).to.equal(before.marks.get(other))
      if (made?.kind !== 'done' || !made.item) throw new Error('not made')
      const { remoteId, revision } = made.item
      await c.write([{ op: 'delete', collection: one, remoteId, revision }])
      const gone = await c.glance(since)
      expect(gone.marks.get(one)).to.not.equal(after.marks.get(one))
    })

  it('takes ctags of servers without sync tokens, and has no mark where there is neither', async () => {
    const dav = await oddDav()
    const c = open(dav.address.replace('http://', ''), {
      kind: 'caldav',
      credentials: { user: 'ines', password: '' },
    })
    const [team, loans] = ['/homes/a/garden%20team/', '/homes/b/loans/']
    dav.put(`${team}e.ics`, eventText('e@odd', 'Event'))
    const since = new Map([team, `${team}#tasks`, loans, '/homes/c/gone/'].map(k => [k, null] as const))
    const before = await c.glance?.(since)
    // Its folders show no ctags; each calendar does.
    expect([...(before?.marks.keys() ?? [])]).to.include.members([team, `${team}#tasks`, loans])
    dav.put(`${team}f.ics`, eventText('f@odd', 'Another'))
    const after = await c.glance?.(since)
    expect(after?.marks.get(team)).to.not.equal(before?.marks.get(team))
    expect(after?.marks.get(loans)).to.equal(before?.marks.get(loans))
  })
})
