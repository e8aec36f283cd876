import { type ItemPatch, newEvent, newTask, noMeaning, type Task } from '@loom/core'
import { expect } from 'chai'
import { within } from '../src/bounds.ts'
import { withDates } from '../src/dates.ts'
import { type Connector, emptyPage, type RemoteItem, type RemoteWrite } from '../src/index.ts'
import { retryAfterMs } from '../src/outbound.ts'

/** What stands around every connector: bounds on what comes in, and which date is the plan. */

const seen = (item: RemoteItem['item'], change: Partial<RemoteItem> = {}): RemoteItem => ({
  remoteId: item.uid,
  collectionId: 'list',
  revision: '1',
  item,
  original: JSON.stringify(item),
  ...change,
})

/** A service that lists what it was given and remembers what it was told. */
function service(items: RemoteItem[]): { connector: Connector; told: RemoteWrite[] } {
  const told: RemoteWrite[] = []
  const connector = {
    capabilities: {
      canHold: { start: false, due: true },
      datePrecision: { start: 'day', due: 'minute' },
    },
    async *delta() {
      yield { ...emptyPage(true), items }
    },
    read: async (_collection: string, id: string) => {
      const item = items.find(i => i.remoteId === id)
      return item ? { kind: 'found', item } : { kind: 'absent' }
    },
    locate: async (uid: string) => items.filter(i => i.item.uid === uid),
    write: async (writes: RemoteWrite[]) => {
      told.push(...writes)
      return writes.map(() => ({ kind: 'done', item: items[0] ?? null, revision: '2' }))
    },
    interpret: (_collection: string, original: string) => {
      const item = JSON.parse(original) as Task
      return items.find(i => i.item.uid === item.uid) ?? null
    },
  } as unknown as Connector
  return { connector, told }
}
async function only(connector: Connector) {
  for await (const page of connector.delta('list', null)) return page
  throw new Error('no page')
}

describe('bounds', () => {
  const cases: [string, RemoteItem, RegExp][] = [
    ['a title without end', seen(newTask('a', { summary: 'x'.repeat(10_001) })), /title is 10001 characters/],
    ['notes without end', seen(newTask('b', { description: 'x'.repeat(500_001) })), /notes are 500001/],
    ['an id without end', seen(newTask('c', {}), { remoteId: 'r'.repeat(501) }), /id is longer/],
    ['a uid without end', seen(newTask('u'.repeat(501), {})), /id is longer/],
    [
      'a thousand categories and one',
      seen(newTask('d', { categories: Array.from({ length: 1001 }, (_, i) => `c${i}`) })),
      /categories or people/,
    ],
    ['a category without end', seen(newTask('e', { categories: ['x'.repeat(501)] })), /categories or people/],
    [
      'a crowd',
      seen(newTask('f', { assignees: Array.from({ length: 1001 }, (_, i) => `p${i}`) })),
      /categories or people/,
    ],
    [
      'the year 0',
      seen(newEvent('g', { anchor: { kind: 'date', date: '0000-01-01' }, minutes: 1440 })),
      /outside of any calendar/,
    ],
  ]
  for (const [what, item, reason] of cases)
    it(`keeps ${what} aside with the reason, and takes in what stands beside it`, async () => {
      const good = seen(newTask('good', {}))
      const page = await only(within(service([item, good]).connector))
      expect(page.items.map(i => i.remoteId)).to.deep.equal(['good'])
      expect(page.problems).to.have.length(1)
      expect(page.problems[0]?.reason).to.match(reason)
      expect(page.problems[0]?.remoteId.length).to.be.at.most(500)
      expect(page.problems[0]?.original.length).to.be.at.most(100_000)
    })

  it('judges what is read by itself in the same way', async () => {
    const long = seen(newTask('a', { summary: 'x'.repeat(10_001) }))
    const connector = within(service([long, seen(newTask('good', {}))]).connector)
    expect(await connector.read('list', 'a')).to.include({ kind: 'problem' })
    expect(await connector.read('list', 'good')).to.include({ kind: 'found' })
    expect(await connector.read('list', 'nowhere')).to.include({ kind: 'absent' })
  })

  it('lets through what is long and still sensible', async () => {
    const item = seen(newTask('a', { summary: 'x'.repeat(10_000), description: 'y'.repeat(500_000) }))
    expect((await only(within(service([item]).connector))).items).to.have.length(1)
  })
})

describe('which date is the plan', () => {
  const day = (date: string) => ({ kind: 'date' as const, date })
  const swap = { list: { ...noMeaning, swapDates: true } }
  const item = seen(newTask('a', { start: null, due: day('2026-11-27') }))
  const dates = (t: RemoteItem['item']): unknown[] => (t.kind === 'task' ? [t.start, t.due] : [])

  it('changes places on the way in, wherever an item is read', async () => {
    const connector = withDates(service([item]).connector, swap)
    const read = await connector.read('list', 'a')
    const found = [
      (await only(connector)).items[0]?.item,
      read.kind === 'found' ? read.item.item : undefined,
      (await connector.locate('a'))[0]?.item,
      connector.interpret('list', item.original)?.item,
    ]
    for (const f of found) expect(dates(f ?? newTask('none', {}))).to.deep.equal([day('2026-11-27'), null])
  })

  it('changes places on the way out, in what is made and in what is changed', async () => {
    const { connector, told } = service([item])
    const swapped = withDates(connector, swap)
    const patch: ItemPatch = { start: day('2026-12-01'), summary: 'Later' }
    const made = newTask('n', { start: day('2026-12-02') })
    const [done] = await swapped.write([
      { op: 'patch', collection: 'list', remoteId: 'a', revision: '1', patch, item: item.item },
      { op: 'create', collection: 'list', item: made },
      { op: 'delete', collection: 'list', remoteId: 'a', revision: '1' },
    ] as unknown as RemoteWrite[])
    expect((told[0] as { patch: ItemPatch }).patch).to.deep.equal({
      due: day('2026-12-01'),
      summary: 'Later',
    })
    expect(dates((told[1] as { item: Task }).item)).to.deep.equal([null, day('2026-12-02')])
    expect(told[2]).to.include({ op: 'delete' })
    expect(done?.kind === 'done' && done.item && dates(done.item.item)).to.deep.equal([
      day('2026-11-27'),
      null,
    ])
    // A service that has only a deadline can hold a plan in its place.
    expect(swapped.capabilities.canHold).to.include({ start: true, due: true })
    expect(swapped.capabilities.datePrecision).to.deep.equal({ start: 'minute', due: 'day' })
  })

  it('leaves other lists, and events, as they are', async () => {
    const elsewhere = seen(newTask('b', { due: day('2026-11-27') }), { collectionId: 'other' })
    const page = await only(withDates(service([elsewhere]).connector, swap))
    expect(dates(page.items[0]?.item ?? newTask('none', {}))).to.deep.equal([null, day('2026-11-27')])
    const { connector } = service([item])
    expect(withDates(connector, { list: noMeaning })).to.equal(connector)
  })
})

describe('Retry-After', () => {
  const now = Date.parse('2026-11-25T10:00:00Z')
  const cases: [string | null, number | null][] = [
    [null, null],
    ['', null],
    ['5', 5_000],
    [' 120 ', 120_000],
    ['Wed, 25 Nov 2026 10:01:00 GMT', 60_000],
    ['Wed, 25 Nov 2026 09:00:00 GMT', 0],
    ['99999999', 3_600_000],
    ['soon', null],
    ['-3', null],
  ]
  for (const [header, expected] of cases)
    it(`reads ${JSON.stringify(header)} as ${expected} ms`, () => {
      expect(retryAfterMs(header, now)).to.equal(expected)
    })
})
