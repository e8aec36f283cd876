import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { newTask, noMeaning, suggestedMeaning, type Task, onDate, type When, zoned } from '@loom/core'
import { listen } from '@loom/standins'
import { expect } from 'chai'
import { z } from 'zod'
import {
  askConsent,
  conform,
  connect,
  type Connector,
  type ConnectionInput,
  type OAuthTokens,
  outbound,
  Pace,
  readDescription,
  ServiceDescription,
  takeConsent,
} from '../src/index.ts'
import { shipped, whole } from './support/pages.ts'

/** Service descriptions against their services, and what is said about one that is wrong. */

describe('service descriptions', () => {
  let running: Awaited<ReturnType<typeof listen>>
  let address = ''
  let http: ReturnType<typeof outbound>

  before(async () => {
    running = await listen(mkdtempSync(join(tmpdir(), 'standins-')), 0)
    address = `http://127.0.0.1:${running.port}`
    http = outbound({ allowed: [`127.0.0.1:${running.port}`], timeoutMs: 3000, maxBytes: 1_000_000 })
  })
  after(() => running.close())

  const open = (
    description: ServiceDescription,
    path: string,
    credentials: Extract<ConnectionInput, { kind: 'http-json' }>['credentials'],
    more: Partial<Parameters<typeof connect>[1]> = {},
  ): Connector => {
    const { limits } = description
    return connect(
      { kind: 'http-json', address: address + path, description, credentials },
      {
        http,
        now: Date.now,
        zone: 'Europe/Dublin',
        pace: limits ? new Pace(limits.requests, limits.perSeconds) : null,
        ...more,
      },
    )
  }
  const fault = (service: string, faults: object) =>
    fetch(`${address}/control/${service}/faults`, { method: 'PUT', body: JSON.stringify(faults) })

  /** Through the consent page, as a person goes. */
  async function consent(account = 1007): Promise<OAuthTokens> {
    const { signIn } = shipped('repairs-board')
    if (signIn.kind !== 'oauth2') throw new Error('not OAuth')
    const redirect = 'http://127.0.0.1:9/back'
    const asked = await askConsent(signIn, { address: `${address}/board`, alsoAt: [] }, redirect)
    const q = new URL(asked.url).searchParams
    const form = new URLSearchParams({
      redirect_uri: q.get('redirect_uri') ?? '',
      state: q.get('state') ?? '',
      code_challenge: q.get('code_challenge') ?? '',
      account: String(account),
      answer: 'yes',
    })
    const answer = await fetch(`${address}/board/oauth/authorize`, {
      method: 'POST',
      body: form,
      redirect: 'manual',
    })
    const back = new URL(answer.headers.get('location') ?? '')
    return takeConsent(
      signIn,
      { address: `${address}/board`, alsoAt: [] },
      { redirect, back, kept: asked },
      http,
      Date.now(),
    )
  }

  it('conform to their services, one that the product has never seen among them', async () => {
    const example = readDescription(
      readFileSync(new URL('../../../docs/examples/seed-slips.json', import.meta.url), 'utf8'),
    )
    if (!example.ok) throw new Error(example.errors.join('\n'))
    const tried: [ServiceDescription, Connector, string][] = [
      [shipped('bench-list'), open(shipped('bench-list'), '/bench', { key: 'bench-key-ines' }), 'festival'],
      [
        shipped('repairs-board'),
        open(shipped('repairs-board'), '/board', { tokens: await consent() }),
        'c-glass',
      ],
      [
        shipped('plant-register'),
        open(shipped('plant-register'), '/register', { key: 'register-key-anouk' }),
        'plants',
      ],
      [
        shipped('gatehouse-mail'),
        open(shipped('gatehouse-mail'), '/mail', { user: 'gatehouse', password: 'lower-gate' }),
        'gate',
      ],
      [example.description, open(example.description, '/slips', { key: 'seed-slips-pass' }), 'spring'],
    ]
    for (const [{ name }, connector, list] of tried) {
      const { checks } = await conform(connector, list, `trial-${name}`)
      expect(
        checks.filter(c => c.outcome === 'fails'),
        name,
      ).to.deep.equal([])
      expect(checks.filter(c => c.outcome === 'works').length, name).to.be.greaterThan(2)
    }
  }).timeout(30_000)

  it('name the path of what is wrong, and publish their schema', () => {
    const good = JSON.parse(readFileSync(new URL('../services/bench-list.json', import.meta.url), 'utf8'))
    const wrong = structuredClone(good)
    wrong.list.items = 'tasks'
    wrong.operations.create.steps[0].method = 'SHOUT'
    wrong.fields.summary.as = 'poem'
    wrong.surprise = true
    const read = readDescription(JSON.stringify(wrong))
    expect(read.ok).to.equal(false)
    const errors = read.ok ? [] : read.errors
    for (const path of ['/list/items', '/operations/create/steps/0/method', '/fields/summary'])
      expect(
        errors.some(e => e.startsWith(path)),
        `${path} in ${errors.join('; ')}`,
      ).to.equal(true)
    expect(errors.join()).to.contain('surprise')
    expect(readDescription('{').ok).to.equal(false)
    const published = JSON.parse(
      readFileSync(new URL('../../../docs/service-description.schema.json', import.meta.url), 'utf8'),
    )
    expect(published).to.deep.equal(
      JSON.parse(JSON.stringify(z.toJSONSchema(ServiceDescription, { io: 'input' }))),
    )
  })

  it('sign in by consent, renew what has run out, and say when nothing renews it', async () => {
    let kept: OAuthTokens | null = null
    const tokens = await consent()
    const old = { ...tokens }
    const board = open(
      shipped('repairs-board'),
      '/board',
      { tokens },
      { onTokens: async t => void (kept = t) },
    )
    expect((await board.discover()).name).to.equal('Ines Varga')
    await fetch(`${address}/board/oauth/expire`, { method: 'POST' })
    expect((await board.discover()).name).to.equal('Ines Varga')
    expect(kept, 'renewed tokens are handed on').to.not.equal(null)
    await fetch(`${address}/board/oauth/expire`, { method: 'POST' })
    const stale = open(shipped('repairs-board'), '/board', { tokens: old })
    const error = await stale.discover().catch((e: unknown) => e)
    expect(error).to.have.property('trouble', 'signed-out')
    expect(String(error), 'no token in a message').to.not.contain(old.access)
  })

  it('learn each crew’s own stages, people and rights', async () => {
    const board = open(shipped('repairs-board'), '/board', { tokens: await consent() })
    const { collections, people } = await board.discover()
    const glass = collections.find(c => c.remoteId === 'c-glass')
    const meaning = glass && suggestedMeaning(glass.terms)
    expect(meaning?.statuses).to.deep.equal({
      g1: 'needs-action',
      g2: 'in-process',
      g3: 'in-process',
      g4: 'completed',
      g5: 'cancelled',
    })
    expect(people.filter(p => p.me).map(p => p.name)).to.deep.equal(['Ines Varga'])
    expect(collections.find(c => c.remoteId === 'c-private')?.whyNot).to.contain('no right')
    const { items } = await whole(board, 'c-glass', null)
    const task = (summary: string) => items.find(i => i.item.summary === summary)?.item as Task
    expect(task('Shelf brackets, House 1').status).to.equal('completed')
    expect([
      task('Mist line, House 2').estimatedDuration,
      task('Mist line, House 2').assignees,
    ]).to.deep.equal([480, ['1012', '1019']])
  })

  it('follow a status by the meaning that a person gave it, and report one without any', async () => {
    const meanings = {
      'c-paths': {
        ...noMeaning,
        statuses: { p1: 'needs-action' as const, p3: 'completed' as const },
        priorities: { soon: 4 },
      },
    }
    const board = open(shipped('repairs-board'), '/board', { tokens: await consent() }, { meanings })
    const { items } = await whole(board, 'c-paths', null)
    const gate = items.find(i => i.item.summary === 'Lower gate hinge')
    expect(gate?.unknownStatus).to.equal('p2')
    const [result] = await board.write([
      {
        op: 'patch',
        collection: 'c-paths',
        remoteId: gate?.remoteId ?? '',
        revision: gate?.revision ?? '',
        patch: { status: 'cancelled' },
      },
    ])
    expect(result).to.have.property('kind', 'refused')
    expect(result).to.have.property('reason').that.contains('No status there means')
  })

  it('find columns by their ids, whatever they are called, and lists inside a register', async () => {
    const open2 = (columns: Record<string, string>) =>
      open(
        shipped('plant-register'),
        '/register',
        { key: 'register-key-anouk' },
        {
          zone: 'Asia/Kathmandu',
          meanings: {
            'plants#k3=kw1': {
              ...noMeaning,
              statuses: { st1: 'needs-action', st2: 'in-process', st3: 'completed' },
              columns,
            },
          },
        },
      )
    const register = open2({ status: 'k7', plan: 'k8', deadline: 'k9', who: 'k2', category: 'k5' })
    const { collections } = await register.discover()
    expect(collections.map(c => c.name)).to.deep.equal([
      'Plant work',
      'Plant work: Check',
      'Plant work: Label',
      'Plant work: Loan',
    ])
    const { items } = await whole(register, 'plants#k3=kw1', null)
    const roots = items.find(i => i.item.summary === 'Cereus roots')?.item as Task
    expect([roots.status, roots.estimatedDuration, roots.categories, roots.start]).to.deep.equal([
      'in-process',
      90,
      ['Cereus'],
      { ...roots.start, zone: 'Asia/Kathmandu' },
    ])
    expect(items.length).to.equal(3)
    const [made] = await register.write([
      {
        op: 'create',
        collection: 'plants#k3=kw1',
        item: newTask('reg-1', {
          summary: 'New',
          start: zoned('2026-11-25T09:00:00', 'Asia/Kathmandu'),
          estimatedDuration: 45,
        }),
        triedAgoMs: null,
      },
    ])
    const task = made?.kind === 'done' ? (made.item?.item as Task) : null
    expect([task?.uid, task?.start, task?.estimatedDuration]).to.deep.equal([
      'reg-1',
      zoned('2026-11-25T09:00:00', 'Asia/Kathmandu'),
      45,
    ])
    // A span keeps its length where it is moved, by hours as by days, and where only its day is said.
    const moved = async (start: When): Promise<unknown> => {
      const now = made?.kind === 'done' ? made.item : null
      const read = await register.read('plants#k3=kw1', now?.remoteId ?? '')
      const { revision = '', remoteId = '' } = read.kind === 'found' ? read.item : {}
      await register.write([
        { op: 'patch', collection: 'plants#k3=kw1', remoteId, revision, patch: { start } },
      ])
      const after = await register.read('plants#k3=kw1', remoteId)
      const original = after.kind === 'found' ? (JSON.parse(after.item.original) as { cells: object }) : null
      return (original?.cells as Record<string, unknown> | undefined)?.k8
    }
    const from = '2026-11-26T14:00'
    expect(await moved(zoned(`${from}:00`, 'Asia/Kathmandu'))).to.deep.equal({ from, to: '2026-11-26T14:45' })
    const late = '2026-11-27T23:30'
    expect(await moved(zoned(`${late}:00`, 'Asia/Kathmandu'))).to.deep.equal({
      from: late,
      to: '2026-11-28T00:15',
    })
    expect(await moved(onDate('2026-12-01'))).to.deep.equal({ from: '2026-12-01', to: '2026-12-02' })
    expect(await moved(onDate('2026-12-03'))).to.deep.equal({ from: '2026-12-03', to: '2026-12-04' })
    // Two edits within the ten seconds that the register tells apart are two revisions all the same.
    expect(register.skew()).to.be.within(100_000, 140_000)
  }).timeout(10_000)

  it('take an incomplete page, a stale token and an error inside a 200 for what they are', async () => {
    const bench = open(shipped('bench-list'), '/bench', { key: 'bench-key-ines' })
    const all = await whole(bench, 'festival', null)
    await fault('bench', { staleToken: true })
    expect((await whole(bench, 'festival', all.token)).full).to.equal(true)
    await fault('bench', {})
    const wrong = open(shipped('plant-register'), '/register', { key: 'nope' })
    expect(await wrong.discover().catch((e: unknown) => e)).to.have.property('trouble', 'signed-out')
    const register = open(shipped('plant-register'), '/register', { key: 'register-key-anouk' })
    const read = await register.read('plants', 'e-nothing')
    expect(read).to.deep.equal({ kind: 'absent' })
  }).timeout(10_000)
})
