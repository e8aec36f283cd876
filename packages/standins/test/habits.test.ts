import { createHash, randomBytes } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import { expect } from 'chai'
import { listen } from '../src/index.ts'

/** The habits that make each stand-in a service of its own, and the troubles that can be switched on. */
describe('stand-ins', () => {
  let base = ''
  let close: () => Promise<void>

  before(async () => {
    const running = await listen(mkdtempSync(join(tmpdir(), 'loom-standins-')), 0)
    base = `http://127.0.0.1:${running.port}`
    close = running.close
  })
  after(() => close())
  afterEach(() => fetch(`${base}/control/reset`, { method: 'POST' }))

  const trouble = (service: string, faults: object) =>
    fetch(`${base}/control/${service}/faults`, { method: 'PUT', body: JSON.stringify(faults) })

  describe('Repairs Board', () => {
    const verifier = randomBytes(32).toString('base64url')
    const code_challenge = createHash('sha256').update(verifier).digest('base64url')
    const redirect_uri = 'http://127.0.0.1/back'

    async function code(answer = 'yes', account = '1012'): Promise<URLSearchParams> {
      const form = { redirect_uri, state: 'st', code_challenge, account, answer }
      const given = await fetch(`${base}/board/oauth/authorize`, {
        method: 'POST',
        body: new URLSearchParams(form),
        redirect: 'manual',
      })
      return new URL(given.headers.get('location') ?? '').searchParams
    }
    const redeem = (set: Record<string, string>) =>
      fetch(`${base}/board/oauth/token`, { method: 'POST', body: new URLSearchParams(set) })
    const tokens = async (account?: string) => {
      const back = await code('yes', account)
      const answer = await redeem({
        grant_type: 'authorization_code',
        code: back.get('code') ?? '',
        code_verifier: verifier,
        redirect_uri,
      })
      return (await answer.json()) as { access_token: string; refresh_token: string }
    }
    const call = async (token: string, path: string, method = 'GET', body?: object) => {
      const answer = await fetch(`${base}/board/api${path}`, {
        method,
        headers: { Authorization: `Bearer ${token}` },
        ...(body ? { body: JSON.stringify(body) } : {}),
      })
      return { status: answer.status, body: answer.status === 204 ? null : await answer.json() }
    }

    it('gives a token only for the right verifier, once, and a new one for each refresh', async () => {
      const back = await code()
      expect(back.get('state')).to.equal('st')
      const set = { grant_type: 'authorization_code', code: back.get('code') ?? '', redirect_uri }
      expect((await redeem({ ...set, code_verifier: 'wrong' })).status).to.equal(400)
      expect((await redeem({ ...set, code_verifier: verifier })).status, 'used up').to.equal(400)
      const first = await tokens()
      const refresh = { grant_type: 'refresh_token', refresh_token: first.refresh_token }
      expect((await redeem(refresh)).status).to.equal(200)
      expect((await redeem(refresh)).status, 'good once').to.equal(400)
      expect((await code('no')).get('error')).to.equal('access_denied')
    })

    it('shows each account its own crews, in pages, and names those it may not see', async () => {
      const { access_token } = await tokens('1019')
      const { crews } = (await call(access_token, '/crews')).body
      expect(crews.map((c: { allowed: boolean }) => c.allowed)).to.deep.equal([true, false, false])
      expect((await call(access_token, '/crews/c-private/orders')).status).to.equal(404)
      for (let i = 0; i < 25; i++)
        await call(access_token, '/crews/c-glass/orders', 'POST', { title: `T ${i}` })
      const first = (await call(access_token, '/crews/c-glass/orders')).body
      const second = (await call(access_token, '/crews/c-glass/orders?page=2')).body
      expect([first.orders.length, second.orders.length, first.pages]).to.deep.equal([20, 12, 2])
    })

    it('gives an order that moves another number, and the links follow', async () => {
      const { access_token } = await tokens()
      const { orders } = (await call(access_token, '/crews/c-glass/orders')).body
      const vent = orders.find((o: { title: string }) => o.title === 'Vent motor, House 3')
      const moved = (await call(access_token, `/orders/${vent.number}/move`, 'POST', { crew: 'c-paths' }))
        .body
      expect(moved.number).to.not.equal(vent.number)
      expect((await call(access_token, `/orders/${vent.number}`)).status).to.equal(404)
      const again = (await call(access_token, '/crews/c-glass/orders')).body.orders
      const linked = again.find((o: { title: string }) => o.title.startsWith('Second vent'))
      expect(linked.linked).to.deep.equal([moved.number])
    })

    it('knows only the stages of an order’s own crew, days, and whole half-days', async () => {
      const { access_token } = await tokens()
      const [order] = (await call(access_token, '/crews/c-glass/orders')).body.orders
      expect(
        (await call(access_token, `/orders/${order.number}/stage`, 'POST', { code: 'p2' })).status,
      ).to.equal(422)
      expect(
        (await call(access_token, `/orders/${order.number}`, 'PATCH', { deadline: '2026-12-01T10:00' }))
          .status,
      ).to.equal(422)
      const changed = (await call(access_token, `/orders/${order.number}`, 'PATCH', { half_days: 1.4 })).body
      expect(changed.half_days).to.equal(1)
    })
  })

  describe('Plant Register', () => {
    const ask = async (path: string, body: object = {}, key = 'register-key-anouk') => {
      const answer = await fetch(`${base}/register/r${path}`, {
        method: 'POST',
        headers: { 'X-Register-Key': key },
        body: JSON.stringify(body),
      })
      return { status: answer.status, body: await answer.json() }
    }
    const patient = async (path: string, body: object = {}) => {
      for (;;) {
        const answer = await ask(path, body)
        if (answer.body.fault?.code !== 'busy') return answer
        await new Promise(resolve => setTimeout(resolve, 250))
      }
    }

    it('says even what is wrong with status 200', async () => {
      for (const [path, body, key, code] of [
        ['/find', { register: 'plants' }, 'no', 'who'],
        ['/find', { register: 'x' }, undefined, 'nothing'],
        ['/amend', { id: 'e1', cells: { k7: { word: 'st9' } } }, undefined, 'wrong'],
      ] as const) {
        const answer = key ? await ask(path, body, key) : await patient(path, body)
        expect([answer.status, answer.body.good, answer.body.fault.code]).to.deep.equal([200, false, code])
      }
    })

    it('tells its time two minutes ahead and to ten seconds, and takes only a few requests a second', async () => {
      const { time } = (await patient('/account')).body.data
      const ahead = Date.parse(time) - Date.now()
      expect(ahead).to.be.within(105_000, 121_000)
      expect(Date.parse(time) % 10_000).to.equal(0)
      const codes = await Promise.all(Array.from({ length: 20 }, () => ask('/account')))
      expect(codes.some(c => c.body.fault?.code === 'busy')).to.equal(true)
    })

    it('holds days, spans and hours in one kind of column, and lets columns be renamed', async () => {
      for (const from of ['2026-12-01', '2026-12-01T09:30'])
        expect((await patient('/amend', { id: 'e1', cells: { k8: { from, to: null } } })).body.good).to.equal(
          true,
        )
      const wrong = await patient('/amend', { id: 'e1', cells: { k8: { from: 'tomorrow' } } })
      expect(wrong.body.fault.words).to.contain('When')
      await fetch(`${base}/register/page/columns/plants`, {
        method: 'POST',
        body: new URLSearchParams({ k8: 'At what time' }),
      })
      const [register] = (await patient('/registers')).body.data.registers
      expect(register.columns.find((c: { id: string }) => c.id === 'k8').name).to.equal('At what time')
    })
  })

  describe('Gatehouse Mail', () => {
    const headers = { Authorization: `Basic ${btoa('gatehouse:lower-gate')}` }

    it('names its next page in a header, and refuses a flag upon another version', async () => {
      for (let i = 0; i < 12; i++)
        await fetch(`${base}/mail/page/new/gate`, {
          method: 'POST',
          body: new URLSearchParams({ subject: `S ${i}` }),
        })
      const first = await fetch(`${base}/mail/api/trays/gate/messages`, { headers })
      expect((await first.json()) as unknown[]).to.have.length(10)
      const next = /<([^>]+)>; rel="next"/.exec(first.headers.get('link') ?? '')?.[1] ?? ''
      const second = await fetch(base + next, { headers })
      expect(((await second.json()) as unknown[]).length).to.be.greaterThan(1)
      expect(second.headers.get('link')).to.equal(null)
      const flag = (version: string) =>
        fetch(`${base}/mail/api/messages/1/flag`, {
          method: 'PUT',
          headers: { ...headers, 'If-Match': version },
          body: '{"flagged":false}',
        })
      expect((await flag('7')).status).to.equal(412)
      expect((await flag('1')).status).to.equal(200)
      expect((await fetch(`${base}/mail/api/trays`)).status).to.equal(401)
    })
  })

  describe('School Visits', () => {
    it('answers 304 to whoever has it, packs it for whoever can unpack, and says how often to ask', async () => {
      const url = `${base}/visits/spring-term.ics`
      const plain = await fetch(url, { headers: { 'Accept-Encoding': 'identity' } })
      const text = await plain.text()
      expect(text).to.contain('REFRESH-INTERVAL;VALUE=DURATION:PT15M')
      const etag = plain.headers.get('etag') ?? ''
      expect((await fetch(url, { headers: { 'If-None-Match': etag } })).status).to.equal(304)
      const { get } = await import('node:http')
      const packed = await new Promise<Buffer>(resolve =>
        get(url, { headers: { 'Accept-Encoding': 'gzip' } }, answer => {
          const parts: Buffer[] = []
          answer.on('data', (part: Buffer) => parts.push(part))
          answer.on('end', () => resolve(Buffer.concat(parts)))
        }),
      )
      expect(gunzipSync(packed).toString()).to.equal(text)
      await trouble('visits', { empty: true })
      expect(await (await fetch(url)).text()).to.not.contain('BEGIN:VEVENT')
    })
  })

  describe('troubles', () => {
    const url = (): string => `${base}/mail/api/trays`
    const headers = { Authorization: `Basic ${btoa('gatehouse:lower-gate')}` }

    it('happen as often as was said, to what was said, and go when they are switched off', async () => {
      await trouble('mail', { status: 503, times: 2 })
      const statuses: number[] = []
      for (let i = 0; i < 3; i++) statuses.push((await fetch(url(), { headers })).status)
      expect(statuses).to.deep.equal([503, 503, 200])
      await trouble('mail', { status: 500, method: 'PUT' })
      expect((await fetch(url(), { headers })).status).to.equal(200)
      await trouble('mail', { drop: 'before' })
      expect(
        await fetch(url(), { headers }).then(
          () => 'answered',
          () => 'broke off',
        ),
      ).to.equal('broke off')
      await trouble('mail', {})
      expect((await fetch(url(), { headers })).status).to.equal(200)
    })

    it('of the kind that comes after: the effect is there, the answer is not', async () => {
      await trouble('mail', { drop: 'after', method: 'PUT', times: 1 })
      const flag = { method: 'PUT', headers, body: '{"flagged":false}' }
      await fetch(`${base}/mail/api/messages/1/flag`, flag).catch(() => undefined)
      const message = (await (await fetch(`${base}/mail/api/messages/1`, { headers })).json()) as {
        flagged: boolean
      }
      expect(message.flagged).to.equal(false)
    })

    it('are offered on a page only where they can happen', async () => {
      const choices = async (service: string): Promise<string[]> =>
        [
          ...(await (await fetch(`${base}/${service}/page/`)).text()).matchAll(
            /<option value="([\w-]+)"[^>]*>(?=[^<]*<\/option>)/g,
          ),
        ].map(m => m[1] ?? '')
      expect(await choices('visits'))
        .to.include('empty')
        .and.not.include('lost')
      expect(await choices('board'))
        .to.include('reordered')
        .and.not.include('stale')
      expect(await choices('garden'))
        .to.include('stale')
        .and.not.include('empty')
    })

    it('of notifications: lost, three times each, or late and the wrong way round', async () => {
      const got: string[] = []
      const hook: Server = createServer((q, a) => {
        const parts: Buffer[] = []
        q.on('data', (part: Buffer) => parts.push(part))
        q.on('end', () => {
          got.push(Buffer.concat(parts).toString())
          a.end()
        })
      })
      await new Promise<void>(resolve => hook.listen(0, '127.0.0.1', () => resolve()))
      const bench = (method: string, path: string, body: object) =>
        fetch(`${base}/bench/v1${path}`, {
          method,
          headers: { Authorization: 'Bearer bench-key-ines' },
          body: JSON.stringify(body),
        })
      await bench('POST', '/hooks', {
        url: `http://127.0.0.1:${(hook.address() as AddressInfo).port}/`,
        secret: 'a-secret-that-is-long-enough',
      })
      const count = async (faults: object, ms: number): Promise<number> => {
        await trouble('bench', faults)
        got.length = 0
        await bench('POST', '/lists/repairs/tasks', { text: 'One' })
        await new Promise(resolve => setTimeout(resolve, ms))
        return got.length
      }
      expect(await count({ notifications: 'lost' }, 400)).to.equal(0)
      expect(await count({ notifications: 'repeated' }, 800)).to.equal(3)
      expect(await count({}, 400)).to.equal(1)
      hook.close()
    })

    it('of listings that are behind: they show what was, and asking by id what is', async () => {
      const bench = async (path: string, method = 'GET', body?: object): Promise<any> => {
        const headers = { Authorization: 'Bearer bench-key-ines' }
        const answer = await fetch(`${base}/bench/v1${path}`, {
          method,
          headers,
          body: body && JSON.stringify(body),
        })
        return answer.status === 204 ? null : answer.json()
      }
      const listed = async (): Promise<string[]> =>
        (await bench('/lists/print/tasks')).tasks.map((t: { text: string }) => t.text)
      const before = await listed()
      const { token } = await bench('/lists/print/tasks')
      const at = Date.now()
      await new Promise(resolve => setTimeout(resolve, 5))
      const made = await bench('/lists/print/tasks', 'POST', { text: 'Fold maps' })
      await bench(`/tasks/${made.id}`, 'PATCH', { text: 'Fold all maps' })
      expect(await listed()).to.deep.equal([...before, 'Fold all maps'])
      await trouble('bench', { asOf: at })
      expect(await listed()).to.deep.equal(before)
      expect((await bench(`/lists/print/changes?since=${token}`)).tasks).to.deep.equal([])
      expect((await bench(`/tasks/${made.id}`)).text).to.equal('Fold all maps')
      await bench(`/tasks/${made.id}`, 'DELETE')
      await trouble('bench', { lagMs: 60_000 })
      expect(await listed()).to.deep.equal(before)
      await trouble('bench', {})
      expect((await bench(`/lists/print/changes?since=${token}`)).left).to.deep.equal([made.id])
    })
  })
})
