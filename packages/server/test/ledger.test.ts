import { expect } from 'chai'
import { randomUUID } from 'node:crypto'
import { addDays, type ClothItem, dayAt, MINUTE, zonedAt } from '@loom/core'
import { countedOnce, ENTRY_SOURCES, type EntryAbout } from '@loom/core/ledger'
import { correct, type Keeper, note, removeEntry, shownEntry } from '../src/ledger/ledger.ts'
import { entriesOf, sumDay } from '../src/data/repositories/time-entries.ts'
import { readConfig } from '../src/context/config.ts'
import { type Running, startServer } from '../src/server.ts'
import { fixedClock, now } from './support/clock.ts'
import { elsewhere } from './support/elsewhere.ts'
import { eventText } from './support/garden.ts'
import { RuleDesk } from './support/rules.ts'
import { Client, startWorld, until, type World } from './support/world.ts'

/** Time taken: what is written down stays, counts once, and belongs to one person. */
describe('the ledger', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk
  let later: Running | null = null
  const ZONE = 'Europe/Dublin'
  const HOUR = 3_600_000
  const today = (): string => dayAt(now(), ZONE)

  before(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  after(async () => {
    await later?.stop()
    await w.close()
  })

  const call = (method: string, path: string, body?: object) => w.client.call(method, `/time${path}`, body)
  const listed = async (query: string, client = w.client): Promise<any[]> => {
    const { status, body } = await client.call('GET', `/time/entries?${query}`)
    expect(status).to.equal(200)
    return body.entries
  }
  const recent = (client = w.client): Promise<any[]> =>
    listed(`from=${addDays(today(), -10)}&to=${addDays(today(), 1)}`, client)
  const of = async (title: string): Promise<any[]> => (await recent()).filter(e => e.about.title === title)
  const items = async (): Promise<ClothItem[]> =>
    (await w.client.call('GET', `/cloth?from=${addDays(today(), -7)}&days=28`)).body.items
  const make = async (title: string, startMs: number | null = null): Promise<string> => {
    const start = startMs === null ? null : zonedAt(startMs, ZONE)
    const body = { what: 'task', title, start, estimate: 60, into: null, said: {} }
    expect((await w.client.call('POST', '/cloth/make', body)).status).to.equal(201)
    return (await until(title, async () => (await items()).find(i => i.title === title && !i.pending))).key
  }
  const edit = async (key: string, what: object): Promise<void> => {
    const { status, body } = await w.client.call('POST', `/cloth/${key}/edit`, what)
    expect(status, body?.reason).to.equal(200)
  }
  /** A whole minute of a day before, so that all of it is past. */
  const at = (hours: number): number => Math.floor((now() - 26 * HOUR) / HOUR) * HOUR + hours * HOUR

  it('takes time by hand, by minutes or from one hour to another, and says what it cannot take', async () => {
    const key = await make('Zorblax crates')
    const written = { item: key, title: '', day: today(), time: { minutes: 25 } }
    expect((await call('POST', '/entries', written)).status).to.equal(201)
    const spanned = { ...written, time: { fromMs: at(0), toMs: at(1) } }
    const { body } = await call('POST', '/entries', spanned)
    expect(body.entry).to.deep.include({
      counted: 60,
      source: 'hand',
      assumed: false,
      day: dayAt(at(0), ZONE),
    })
    expect(body.entry.about).to.deep.include({ title: 'Zorblax crates', estimate: 60, kind: 'task' })
    const refused: [object, number][] = [
      [{ ...written, day: addDays(today(), 1) }, 422],
      [{ ...written, time: { fromMs: now() + HOUR, toMs: now() + 2 * HOUR } }, 422],
      [{ ...written, time: { fromMs: at(1), toMs: at(0) } }, 400],
      [{ ...written, time: { fromMs: 0, toMs: 40 * HOUR } }, 400],
      [{ ...written, time: { minutes: 0 } }, 400],
      [{ ...written, time: { minutes: 1441 } }, 400],
      [{ ...written, item: 'nothing' }, 404],
      [{ ...written, item: null }, 404],
    ]
    for (const [wrong, status] of refused)
      expect((await call('POST', '/entries', wrong)).status, JSON.stringify(wrong)).to.equal(status)
    expect(await listed(`item=${key}`)).to.have.length(2)
    expect((await call('GET', '/taken')).body.taken[key]).to.equal(85)
  })

  it('keeps each version, goes back from a removal, and forgets what is deleted', async () => {
    const said = {
      item: null,
      title: 'Quennip on the phone',
      category: 'Calls',
      day: today(),
      time: { minutes: 40 },
    }
    const { entry } = (await call('POST', '/entries', said)).body
    const change = (version: number, to: object) => call('PATCH', `/entries/${entry.id}`, { version, ...to })
    expect((await change(1, { time: { minutes: 55 }, day: addDays(today(), -1) })).status).to.equal(200)
    expect((await change(1, { time: { minutes: 5 } })).status, 'it was changed meanwhile').to.equal(409)
    expect(await of('Quennip on the phone')).to.have.nested.property('[0].counted', 55)
    expect((await change(2, { withdrawn: true })).status).to.equal(200)
    expect(await of('Quennip on the phone')).to.deep.equal([])
    expect((await change(3, { withdrawn: false })).status).to.equal(200)
    const [back] = await of('Quennip on the phone')
    expect(back).to.deep.include({ counted: 55, day: addDays(today(), -1), version: 4 })
    const sql = w.app.ctx.db
    const versions = () =>
      sql.rows<{ version: number }>('SELECT version FROM time_entry_versions WHERE entry_id = :id', {
        id: entry.id,
      })
    expect((await versions()).map(v => v.version)).to.deep.equal([1, 2, 3])
    expect((await call('DELETE', `/entries/${entry.id}`)).status).to.equal(200)
    expect(await versions()).to.deep.equal([])
    expect((await call('DELETE', `/entries/${entry.id}`)).status).to.equal(404)
  })

  it('notes a block that was worked, once, and takes it back with its mark', async () => {
    const key = await make('Vexil hedge')
    await edit(key, { do: 'estimate', minutes: 90 })
    const block = {
      what: 'block',
      task: key,
      title: null,
      start: zonedAt(at(3), ZONE),
      minutes: 60,
      said: {},
    }
    expect((await w.client.call('POST', '/cloth/make', { ...block, into: null })).status).to.equal(201)
    const made = await until('its block', async () =>
      (await items()).find(i => i.kind === 'block' && i.of === key && !i.pending),
    )
    await edit(made.key, { do: 'spend', spent: true })
    const [entry] = await of('Vexil hedge')
    expect(entry).to.deep.include({ source: 'worked', assumed: false, counted: 60 })
    expect(entry.about).to.deep.include({ key, estimate: 90 })
    // What was said by hand of the same minutes counts first.
    await call('POST', '/entries', {
      item: key,
      title: '',
      day: today(),
      time: { fromMs: at(3) + 30 * MINUTE, toMs: at(4) + 30 * MINUTE },
    })
    expect((await of('Vexil hedge')).map(e => [e.source, e.counted])).to.deep.equal([
      ['worked', 30],
      ['hand', 60],
    ])
    expect((await call('GET', '/taken')).body.taken[key], 'beside the block').to.equal(30)
    await edit(made.key, { do: 'spend', spent: false })
    expect((await of('Vexil hedge')).map(e => e.source)).to.deep.equal(['hand'])
    await edit(made.key, { do: 'spend', spent: true })
    expect((await of('Vexil hedge')).reduce((x, e) => x + e.counted, 0)).to.equal(90)
  })

  it('assumes the planned time of a task that is done, until somebody says so, and not again what was removed', async () => {
    const key = await make('Plimber gate', at(6))
    await edit(key, { do: 'complete' })
    const [assumed] = await of('Plimber gate')
    expect(assumed).to.deep.include({ source: 'worked', assumed: true })
    await edit(key, { do: 'reopen' })
    expect(await of('Plimber gate')).to.deep.equal([])
    await edit(key, { do: 'complete' })
    const [again] = await of('Plimber gate')
    expect(again.id).to.equal(assumed.id)
    expect((await call('POST', '/confirm', { ids: [again.id] })).body).to.deep.equal({ confirmed: 1 })
    expect((await of('Plimber gate'))[0].assumed).to.equal(false)
    expect((await call('POST', '/confirm', { ids: [again.id] })).body).to.deep.equal({ confirmed: 0 })
    // What is confirmed was worked, whatever becomes of the task.
    await edit(key, { do: 'reopen' })
    expect(await of('Plimber gate')).to.have.length(1)
    await call('DELETE', `/entries/${again.id}`)
    await edit(key, { do: 'complete' })
    expect(await of('Plimber gate')).to.deep.equal([])
  })

  it('survives what happens to its task', async () => {
    const key = await make('Orrible fence')
    await call('POST', '/entries', { item: key, title: '', day: today(), time: { minutes: 35 } })
    await edit(key, { do: 'rename', title: 'Quite another fence' })
    await edit(key, { do: 'estimate', minutes: 300 })
    await desk.settled()
    await call('POST', '/entries', { item: key, title: '', day: today(), time: { minutes: 10 } })
    const second = (await of('Quite another fence'))[0]
    expect(second.about.estimate, 'as it was when work began').to.equal(60)
    await edit(key, { do: 'delete' })
    await until('it is gone', async () => !(await items()).some(i => i.key === key))
    await desk.settled()
    const [{ workspaceId = '' } = {}] = await w.app.ctx.db.rows<{ workspaceId: string }>(
      'SELECT workspace_id AS workspaceId FROM mirrors WHERE id = :key',
      { key },
    )
    await w.app.ctx.db.commit(async sql => {
      await sql.run('DELETE FROM mirrors WHERE id = :key', { key })
      sql.tell(workspaceId, { topics: ['cloth'] })
    })
    const left = [...(await of('Orrible fence')), ...(await of('Quite another fence'))]
    expect(left.map(e => e.counted)).to.deep.equal([35, 10])
  })

  it('runs one clock for a person, and writes down what it measured', async () => {
    const [one, two] = [await make('Wimble one'), await make('Wimble two')]
    expect((await call('POST', '/clock', { item: one })).body).to.deep.equal({ entry: null })
    expect((await call('GET', '/clock')).body.clock).to.deep.include({ key: one, title: 'Wimble one' })
    const ranFor = (minutes: number) =>
      w.app.ctx.db.run('UPDATE ledgers SET clock_from_ms = :from WHERE clock_about IS NOT NULL', {
        from: w.app.ctx.now() - minutes * MINUTE,
      })
    await ranFor(20)
    expect((await call('POST', '/clock', { item: two })).body.entry).to.deep.include({ minutes: 20 })
    expect((await of('Wimble one'))[0]).to.deep.include({ source: 'clock', assumed: false })
    await ranFor(9 * 60)
    await call('POST', '/clock/stop')
    expect((await of('Wimble two'))[0], 'perhaps it was forgotten').to.deep.include({ assumed: true })
    expect((await call('GET', '/clock')).body.clock).to.equal(null)
    expect((await call('POST', '/clock/stop')).body).to.deep.equal({ entry: null })
  })

  it('is shown to its person alone', async () => {
    const mine = (await recent())[0]
    const stranger = await elsewhere(w)
    expect(await recent(stranger)).to.deep.equal([])
    for (const [method, path, body] of [
      ['PATCH', `/time/entries/${mine.id}`, { version: mine.version, assumed: false }],
      ['DELETE', `/time/entries/${mine.id}`, undefined],
    ] as const)
      expect((await stranger.call(method, path, body)).status).to.equal(404)
    expect((await recent()).find(e => e.id === mine.id)).to.deep.equal(mine)
  })

  it('counts each minute once after any changes, as if all had been written down at once', async () => {
    const { ctx } = w.app
    const [row] = await ctx.db.rows<Keeper>(
      'SELECT id, workspace_id AS workspaceId, zone FROM members WHERE email = :email',
      (await w.client.call('GET', '/session')).body,
    )
    const keeper = row as Keeper
    const about: EntryAbout = {
      key: null,
      uid: '',
      title: 'at random',
      list: '',
      category: '',
      kind: 'other',
      estimate: null,
      private: false,
    }
    let seed = 21
    const random = (below: number): number => {
      seed = (seed * 1_103_515_245 + 12_345) % 2 ** 31
      return seed % below
    }
    const time = () => {
      const fromMs = Date.UTC(2020, 0, 2) + random(4 * 1440) * MINUTE
      return random(8) === 0
        ? { minutes: 1 + random(90) }
        : { fromMs, toMs: fromMs + (1 + random(700)) * MINUTE }
    }
    const days = { memberId: keeper.id, from: '2020-01-01', to: '2020-02-01', limit: 1000 }
    const standing = async () => (await entriesOf(ctx.db, days)).map(shownEntry)
    for (let round = 0; round < 60; round++) {
      const there = await standing()
      const chosen = there[random(Math.max(1, there.length))]
      const act = random(6)
      if (!chosen || act < 3)
        await ctx.db.commit(sql =>
          note(sql, keeper, now(), {
            time: time(),
            day: '2020-01-04',
            source: ENTRY_SOURCES[random(4)] ?? 'hand',
            assumed: random(2) === 0,
            about,
            ref: null,
          }),
        )
      else if (act === 3) await removeEntry(ctx, keeper, chosen.id)
      else await correct(ctx, keeper, chosen, act === 4 ? { time: time() } : { withdrawn: true })
      const after = await standing()
      const counted = countedOnce(after)
      expect(
        after.map(e => [e.id, e.counted]),
        `round ${round}`,
      ).to.deep.equal(after.map(e => [e.id, counted.get(e.id)]))
    }
    const sums = await ctx.db.rows<{ day: string; minutes: number }>(
      'SELECT CAST(day AS CHAR) AS day, minutes FROM time_days WHERE member_id = :id AND day < :before ORDER BY day',
      { id: keeper.id, before: '2020-02-01' },
    )
    const bySum = new Map<string, number>()
    for (const e of await standing()) bySum.set(e.day, (bySum.get(e.day) ?? 0) + e.counted)
    expect(sums.map(s => [s.day, Number(s.minutes)])).to.deep.equal([...bySum].filter(([, n]) => n > 0))
    await ctx.db.run("DELETE FROM time_entries WHERE title = 'at random'")
    await ctx.db.run("DELETE FROM time_days WHERE day < '2020-02-01'")
  })

  it('tells of a team only what nobody can be known from, settled once', async () => {
    const { db } = w.app.ctx
    const week = addDays(today(), -28)
    const monday = addDays(week, 1 - (new Date(`${week}T12:00:00Z`).getUTCDay() || 7))
    const [me] = await db.rows<{ id: string; workspace_id: string; user_id: string }>(
      'SELECT id, workspace_id, user_id FROM members WHERE email = :email',
      (await w.client.call('GET', '/session')).body,
    )
    const span = `from=${monday}&to=${addDays(monday, 7)}`
    const told = async (): Promise<any> => (await call('GET', `/team?${span}`)).body.weeks
    const put = async (member: string, minutes: number, isPrivate = 0): Promise<void> => {
      await db.insert(
        `INSERT INTO time_entries (id, workspace_id, member_id, version, day, minutes, counted, source, assumed, uid, title, list,
           category, kind, private, made_at)
         VALUES (:id, :ws, :member, 1, :day, :minutes, :minutes, 'hand', 0, '', 'x', '', 'Repairs', 'other', :isPrivate, 0)`,
        { id: randomUUID(), ws: me?.workspace_id, member, day: addDays(monday, 2), minutes, isPrivate },
      )
      await sumDay(db, { memberId: member, day: addDays(monday, 2) })
    }
    expect(await told(), 'nothing there').to.deep.equal([{ week: monday, by: null }])
    await db.run('DELETE FROM team_weeks')
    const ids = [...Array(6)].map(() => randomUUID())
    for (const [n, id] of ids.entries()) {
      const email = `s${n}@quillmere.example`
      await db.insert(`INSERT INTO users (id, email, password_hash, made_at) VALUES (:id, :email, '', 0)`, {
        id,
        email,
      })
      await db.insert(
        `INSERT INTO members (id, workspace_id, user_id, email, name, role, zone, settings, daily_summary, joined_at)
         SELECT :id, workspace_id, :id, :email, 'Somebody', 'member', zone, '{}', 0, 0 FROM members WHERE id = :me`,
        { id, me: me?.id, email },
      )
      await put(id, 60, n === 0 ? 1 : 0)
    }
    const [first] = await told()
    expect(first).to.deep.equal({ week: monday, by: { 'Everything else': 360 } })
    await put(ids[1] ?? '', 600)
    expect(await told(), 'what is written down later changes nothing').to.deep.equal([first])
    const { status } = await call('GET', `/team/file?${span}`)
    expect(status).to.equal(200)
    const ahead = `from=${addDays(monday, 28)}&to=${addDays(monday, 35)}`
    expect((await call('GET', `/team?${ahead}`)).body.weeks, 'not over').to.deep.equal([])
    await db.run(`DELETE FROM time_entries WHERE title = 'x'`)
    await db.run('DELETE FROM time_days WHERE member_id IN (:ids)', { ids })
    await db.run('DELETE FROM members WHERE id IN (:ids)', { ids })
    await db.run('DELETE FROM users WHERE id IN (:ids)', { ids })
  })

  it('sums up for a report what its entries are', async () => {
    const span = `from=${addDays(today(), -10)}&to=${addDays(today(), 1)}`
    const whole = (await recent()).reduce((x, e) => x + e.counted, 0)
    for (const by of ['category', 'list', 'kind'])
      for (const period of ['day', 'week', 'month']) {
        const { status, body } = await call('GET', `/report?${span}&by=${by}&period=${period}`)
        expect(status).to.equal(200)
        expect(body.periods.reduce((x: number, p: any) => x + p.minutes, 0)).to.equal(whole)
      }
    expect((await call('GET', `/report?from=${today()}&to=${today()}`)).status).to.equal(400)
    expect((await call('GET', `/report/file?${span}`)).status).to.equal(200)
  })

  it('notes meetings of days that are over, as assumed, once and unless they were declined', async () => {
    const day = addDays(today(), 2)
    const { email } = (await w.client.call('GET', '/session')).body
    const guest = (answer: string): string[] => [
      'ORGANIZER:mailto:host@elsewhere.example',
      `ATTENDEE;PARTSTAT=${answer}:mailto:${email}`,
    ]
    const put = async (uid: string, from: string, to: string, extra: string[] = []): Promise<void> => {
      const text = eventText(uid, `Nollop ${uid}`, day, from, to, extra)
      expect(await w.garden.put('teaching', `${uid}.ics`, text)).to.be.oneOf([201, 204])
    }
    // In the evening, when the demo has nothing on any day: of two meetings at once each minute counts for one.
    await put('kept', '18:00', '19:00')
    await put('accepted', '19:00', '20:00', guest('ACCEPTED'))
    await put('declined', '20:00', '21:00', guest('DECLINED'))
    await put('unanswered', '21:00', '22:00', guest('NEEDS-ACTION'))
    await until('they are here', async () => {
      const there = (await items()).filter(i => i.title.startsWith('Nollop'))
      return there.length === 4
    })
    await w.app.nights.countDue()
    await w.app.stop()
    later = await startServer(readConfig({ ...w.environment, ...fixedClock(5) }))
    const client = new Client(`http://127.0.0.1:${later.port}`)
    await client.signIn()
    const met = async (): Promise<any[]> =>
      (await listed(`from=${day}&to=${addDays(day, 1)}`, client)).filter(e =>
        e.about.title.startsWith('Nollop'),
      )
    await until('they are noted', async () => (await met()).length > 0)
    expect((await met()).map(e => [e.about.title, e.source, e.assumed, e.counted])).to.deep.equal([
      ['Nollop kept', 'attended', true, 60],
      ['Nollop accepted', 'attended', true, 60],
    ])
    await later.nights.countDue()
    expect(await met()).to.have.length(2)
  })
})
