import { defaultSettings } from '@loom/core'
import { expect } from 'chai'
import { eventText, GardenSide, property } from './support/garden.ts'
import { begin, keep, readOnce } from './support/connecting.ts'
import { RuleDesk } from './support/rules.ts'
import { now } from './support/clock.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** What is no longer where it was, and what something else sets back each time. */
describe('what moves, what waits, and what is set back', function () {
  this.timeout(60_000)
  let w: World
  let desk: RuleDesk

  beforeEach(async () => {
    w = await startWorld()
    desk = new RuleDesk(w)
    await desk.ready()
    await desk.settled()
  })
  afterEach(() => w.close())

  const db = () => w.app.ctx.db
  /** Whether a service is neither read nor written to. */
  async function pause(service: string, paused: boolean): Promise<void> {
    await db().run(
      'UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.paused = :paused, l.next_look_at = 0 WHERE c.name = :service',
      {
        service,
        paused,
      },
    )
    // A look that was under way may still end.
    if (paused)
      await until('no look is under way', async () => {
        const held = await db().rows(
          `SELECT 1 FROM leases l JOIN connections c ON l.resource = CONCAT('connection:', c.id)
             WHERE c.name = :service AND l.expires_at > :now`,
          { service, now: Date.now() },
        )
        return held.length === 0
      })
  }
  /** Titles of what was decided on and has not gone out. */
  const open = async (): Promise<string[]> =>
    (await db().rows<{ title: string }>(`SELECT title FROM intents WHERE state = 'open'`)).map(i => i.title)
  /** A full comparison, waited for. */
  async function readAnew(service: string): Promise<void> {
    const name = { service }
    const one = await db().one<{ id: string }>('SELECT id FROM connections WHERE name = :service', name)
    const since = now()
    await w.client.call('POST', `/connections/${one?.id}/compare`)
    await until('all of it was read again', async () => {
      const lists = await db().rows<{ synced_at: number; sync_token: string | null }>(
        'SELECT synced_at, sync_token FROM collections WHERE connection_id = :id AND takes_part = 1',
        { id: one?.id ?? '' },
      )
      return lists.every(l => l.sync_token !== null && l.synced_at >= since)
    })
  }
  const eventTitled = (calendar: string, title: string) =>
    until(`an event “${title}”`, async () => (await w.garden.titled(calendar, title))[0])

  it('an event that goes to another calendar of its rule, as deletion and creation: its task follows, nothing is made twice', async () => {
    const also = { a: [], b: [await desk.collection('Teaching')] }
    const { id } = await desk.save('Small repairs', 'House repairs', {
      made: { a: 'all', b: 'all' },
      deleted: { a: 'deleted', b: 'deleted' },
      also,
    })
    const task = await w.bench.add('repairs', { text: 'Wandering work', day: weekDay(8), hour: '10:00' })
    const event = await eventTitled('house-repairs', 'Wandering work')
    await desk.settled()
    const ties = (await desk.rule(id)).ties
    await desk.unseen(async () => {
      await w.garden.put('teaching', 'wandering.ics', event.text)
      await w.garden.remove('house-repairs', event.name)
    })
    await w.bench.edit(task.id, { text: 'Work that wandered' })
    await eventTitled('teaching', 'Work that wandered')
    await desk.settled()
    expect(await w.bench.titled('repairs', 'Work that wandered')).to.have.length(1)
    expect(await w.bench.titled('repairs', 'Wandering work')).to.have.length(0)
    expect(await w.garden.titled('house-repairs', 'Work that wandered')).to.have.length(0)
    expect((await desk.rule(id)).ties).to.equal(ties)
  })

  it('an event that is gone while another calendar of the account cannot be found: it waits until that is settled', async () => {
    const title = 'Order moonflower plugs'
    const event = await eventTitled('festival-work', title)
    const dayOf = async () => (await w.bench.titled('festival', title))[0]?.day
    const before = await dayOf()
    expect(before).to.be.a('string')
    await desk.unseen(async () => {
      await fetch(w.garden.url('teaching'), {
        method: 'DELETE',
        headers: { Authorization: `Basic ${btoa('ines:moonflower')}` },
      })
      await w.garden.remove('festival-work', event.name)
    })
    await until('it is said why', async () => {
      const { connections } = (await w.client.call('GET', '/connections')).body
      return connections.some((c: any) =>
        c.collections.some((k: any) => /deleted from the other lists/.test(k.trouble ?? '')),
      )
    })
    await desk.settled()
    expect(await dayOf(), 'it may have been moved there').to.equal(before)
    await w.app.ctx.db.run(`UPDATE collections SET takes_part = 0 WHERE name = 'Teaching'`)
    await w.app.ctx.db.run('UPDATE look_times SET next_look_at = 0')
    await until('now it is gone, and its task has no date', async () => (await dayOf()) === null)
  })

  it('a listing that is behind: no old value comes back, nor what was removed, and what it does not know yet is not gone', async () => {
    const all = { made: { a: 'all', b: 'all' }, deleted: { a: 'deleted', b: 'deleted' } } as const
    await desk.save('Small repairs', 'House repairs', all)
    const at = { day: weekDay(8), hour: '10:00' }
    const moving = await w.bench.add('repairs', { text: 'Sharpen shears', ...at })
    const leaving = await w.bench.add('repairs', { text: 'Oil hinges', ...at })
    const moved = await eventTitled('house-repairs', 'Sharpen shears')
    const removed = await eventTitled('house-repairs', 'Oil hinges')
    await desk.settled()
    const before = now()
    await w.garden.edit('house-repairs', moved, t => t.replace(/^(DT(?:START|END).*)T10/gm, '$1T20'))
    await w.garden.remove('house-repairs', removed.name)
    await w.garden.put('house-repairs', 'new.ics', eventText('new', 'Wax floor', at.day, '15:00', '16:00'))
    const hour = async () => (await w.bench.get(moving.id))?.hour
    await until('the task has moved', async () => (await hour()) === '20:00')
    await until('the other is removed', async () => (await w.bench.get(leaving.id)) === null)
    await until('one is made', async () => (await w.bench.titled('repairs', 'Wax floor'))[0])
    await desk.settled()
    await w.fault('bench', { asOf: before })
    const listed = (await w.bench.listed('repairs')).map(t => `${t.text} ${t.hour}`)
    expect(listed).to.include.members(['Sharpen shears 10:00', 'Oil hinges 10:00'])
    expect(listed).to.not.include('Wax floor 15:00')
    await readAnew('Bench List')
    await desk.settled()
    await w.fault('bench', {})
    expect(await hour()).to.equal('20:00')
    const stays = await eventTitled('house-repairs', 'Sharpen shears')
    expect(property(stays.text, 'DTSTART')).to.match(/T200000/)
    for (const [title, times] of [
      ['Oil hinges', 0],
      ['Wax floor', 1],
    ] as const) {
      expect(await w.bench.titled('repairs', title), title).to.have.length(times)
      expect(await w.garden.titled('house-repairs', title), title).to.have.length(times)
    }
  })

  it('an event that is to be removed and has moved a moment before: it is removed where it is now', async () => {
    const all = { made: { a: 'all', b: 'all' }, deleted: { a: 'deleted', b: 'deleted' } } as const
    await desk.save('Small repairs', 'House repairs', all)
    const task = await w.bench.add('repairs', { text: 'Clear drain', day: weekDay(8), hour: '10:00' })
    const event = await eventTitled('house-repairs', 'Clear drain')
    await desk.settled()
    await pause('Garden Calendars', true)
    await w.bench.remove(task.id)
    await until('its removal is decided on', async () => (await open()).includes('Clear drain'))
    await w.garden.put('teaching', 'moved.ics', event.text)
    await w.garden.remove('house-repairs', event.name)
    await pause('Garden Calendars', false)
    await until(
      'it is gone there',
      async () => (await w.garden.titled('teaching', 'Clear drain')).length === 0,
    )
    await desk.settled()
    expect(await w.bench.titled('repairs', 'Clear drain')).to.have.length(0)
    expect(await w.garden.titled('house-repairs', 'Clear drain')).to.have.length(0)
  })

  it('an event that was out of sight and comes back in another calendar: its mirror goes along', async () => {
    const event = await eventTitled('festival-work', 'Label night beds')
    const known = await db().one<{ id: string; uid: string }>(
      `SELECT id, uid FROM mirrors WHERE remote_id LIKE :name AND presence = 'present'`,
      { name: `%${event.name}` },
    )
    // As it is while its connection’s settings keep it out.
    await db().run(`UPDATE mirrors SET presence = 'outside' WHERE id = :id`, { id: known?.id ?? '' })
    await desk.unseen(async () => {
      await w.garden.put('teaching', 'back.ics', event.text)
      await w.garden.remove('festival-work', event.name)
    })
    await until('it is back, and the only one of its uid', async () => {
      const there = await db().rows<{ id: string; remote_id: string; presence: string }>(
        'SELECT id, remote_id, presence FROM mirrors WHERE uid = :uid',
        { uid: known?.uid ?? '' },
      )
      const [one, more] = there.filter(m => m.presence === 'present')
      return one?.id === known?.id && one?.remote_id.endsWith('back.ics') && !more
    })
    await desk.settled()
    expect(await w.bench.titled('festival', 'Label night beds')).to.have.length(1)
  })

  it('an event copied to another calendar, and only later removed from the first: each copy was tied by itself', async () => {
    const also = { a: [], b: [await desk.collection('Teaching')] }
    const { id } = await desk.save('Small repairs', 'House repairs', {
      made: { a: 'all', b: 'all' },
      deleted: { a: 'deleted', b: 'deleted' },
      also,
    })
    const task = await w.bench.add('repairs', { text: 'Mend trellis', day: weekDay(8), hour: '10:00' })
    const event = await eventTitled('house-repairs', 'Mend trellis')
    await desk.settled()
    const { ties } = await desk.rule(id)
    await w.garden.put('teaching', 'copy.ics', event.text)
    const copies = () => w.bench.titled('repairs', 'Mend trellis')
    await until('the copy has a task as well', async () => (await copies()).length === 2)
    await desk.settled()
    await w.garden.remove('house-repairs', event.name)
    await until('the task of the first is gone', async () => (await w.bench.get(task.id)) === null)
    await desk.settled()
    expect((await desk.rule(id)).ties).to.equal(ties)
    const [left, none] = await copies()
    expect(none).to.equal(undefined)
    await w.bench.edit(left?.id ?? '', { text: 'Mend the trellis' })
    await eventTitled('teaching', 'Mend the trellis')
    await desk.settled()
    expect(await w.garden.titled('house-repairs', 'Mend trellis')).to.have.length(0)
  })

  it('a further calendar of a rule that is not read yet: nothing is made until it is known what is in it', async () => {
    const also = { a: [], b: [await desk.collection('Teaching')] }
    const { id } = await desk.save('Ideas', 'House repairs', { also })
    await desk.settled()
    await pause('Garden Calendars', true)
    await db().run(`UPDATE collections SET synced_at = NULL, sync_token = NULL WHERE name = 'Teaching'`)
    await w.bench.add('someday', { text: 'Late work', day: weekDay(8), hour: '10:00' })
    await until(
      'it is known here',
      async () => (await db().rows(`SELECT 1 FROM mirrors WHERE item LIKE '%Late work%'`))[0],
    )
    expect((await desk.rule(id)).notices[0]).to.equal('Teaching is still being read for the first time.')
    const draft = await desk.preview('Ideas', 'Garden team', { also })
    expect(draft.problem).to.equal('Teaching is still being read for the first time.')
    expect(await open()).to.not.include('Late work')
    await pause('Garden Calendars', false)
    await eventTitled('house-repairs', 'Late work')
    await desk.settled()
    expect((await desk.rule(id)).notices.join()).to.not.match(/still being read/)
  })

  it('a further calendar that cannot be found: what is tied in it waits, the rest goes on', async () => {
    const also = { a: [], b: [await desk.collection('Teaching')] }
    const { id } = await desk.save('Ideas', 'House repairs', { also })
    const add = (text: string, hour: string) => w.bench.add('someday', { text, day: weekDay(8), hour })
    const stays = await add('Wash pots', '10:00')
    const waits = await add('Wash trays', '11:00')
    await eventTitled('house-repairs', 'Wash pots')
    const event = await eventTitled('house-repairs', 'Wash trays')
    await desk.unseen(async () => {
      await w.garden.put('teaching', 'trays.ics', event.text)
      await w.garden.remove('house-repairs', event.name)
    })
    await until('it is known where it went', async () => {
      const [row] = await db().rows<{ name: string }>(
        `SELECT c.name FROM ties t JOIN mirrors m ON m.id = t.b_mirror JOIN collections c ON c.id = m.collection_id
         WHERE t.released IS NULL AND m.item LIKE '%Wash trays%'`,
      )
      return row?.name === 'Teaching'
    })
    await desk.settled()
    const trouble = (words: string | null) =>
      db().run(`UPDATE collections SET trouble = :words WHERE name = 'Teaching'`, {
        words,
      })
    await pause('Garden Calendars', true)
    await trouble('It can no longer be found at the service.')
    for (const [task, text] of [
      [stays, 'Wash all pots'],
      [waits, 'Wash all trays'],
    ] as const)
      await w.bench.edit(task.id, { text })
    await until('what can go on is decided on', async () => (await open()).some(t => t.includes('pots')))
    expect((await open()).some(t => t.includes('trays'))).to.equal(false)
    expect((await desk.rule(id)).state).to.equal('on')
    await pause('Garden Calendars', false)
    await eventTitled('house-repairs', 'Wash all pots')
    await eventTitled('teaching', 'Wash all trays')
  })

  it('a rule that is paused before what it decided on went out: it makes it when it goes on', async () => {
    const { id } = await desk.save('Small repairs', 'House repairs', {})
    await desk.settled()
    const set = (state: string) => w.client.call('PUT', `/rules/${id}/state`, { state })
    await pause('Garden Calendars', true)
    await w.bench.add('repairs', { text: 'Hang shutters', day: weekDay(8), hour: '10:00' })
    await until('its event is decided on', async () => (await open()).includes('Hang shutters'))
    await set('paused')
    expect(await open()).to.deep.equal([])
    await pause('Garden Calendars', false)
    await set('on')
    await eventTitled('house-repairs', 'Hang shutters')
    await desk.settled()
    expect(await w.garden.titled('house-repairs', 'Hang shutters')).to.have.length(1)
  })

  it('a ring whose event was moved to a calendar that is in no rule: it is paired with, not made again', async () => {
    await desk.save('Ideas', 'Small repairs', { made: { a: 'all', b: 'all' } })
    await desk.save('Small repairs', 'House repairs', {})
    await w.bench.add('someday', { text: 'Star chart', day: weekDay(8), hour: '10:00' })
    const event = await eventTitled('house-repairs', 'Star chart')
    await desk.settled()
    await desk.unseen(async () => {
      await w.garden.put('teaching', 'stars.ics', event.text)
      await w.garden.remove('house-repairs', event.name)
    })
    await until('its tie has followed', async () => {
      const [row] = await db().rows<{ name: string }>(
        `SELECT c.name FROM mirrors m JOIN collections c ON c.id = m.collection_id
         WHERE m.remote_id LIKE '%stars.ics' AND m.presence = 'present'`,
      )
      return row?.name === 'Teaching'
    })
    await desk.settled()
    await desk.save('Ideas', 'House repairs', {})
    await desk.settled()
    expect(await w.garden.titled('house-repairs', 'Star chart')).to.have.length(0)
    expect(await w.garden.titled('teaching', 'Star chart')).to.have.length(1)
    const [idea] = await w.bench.titled('someday', 'Star chart')
    await w.bench.edit(idea?.id ?? '', { text: 'Star charts' })
    await eventTitled('teaching', 'Star charts')
  })

  it('a title that something at the service sets back each time: it is left after three times, and the rule says so', async () => {
    const fields = { ...defaultSettings.fields, title: 'a-to-b' } as const
    const { id } = await desk.save('Small repairs', 'House repairs', {
      fields,
      made: { a: 'all', b: 'nothing' },
    })
    await w.bench.add('repairs', { text: 'Paint the gate', day: weekDay(8), hour: '10:00' })
    const setBack = async (): Promise<void> => {
      const event = await eventTitled('house-repairs', 'Paint the gate')
      await desk.settled()
      await w.garden.edit('house-repairs', event, t => t.replace(/^SUMMARY:.*/m, 'SUMMARY:PAINT THE GATE'))
    }
    for (let i = 0; i < 4; i++) await setBack()
    await until('the rule says why it stops', async () =>
      (await desk.rule(id)).notices.some((n: string) => /sets it back each time, so it is left/.test(n)),
    )
    await desk.settled()
    const [left] = await w.garden.titled('house-repairs', 'PAINT THE GATE')
    expect(property(left?.text ?? '', 'SUMMARY')).to.equal('PAINT THE GATE')
    const writes = (await desk.entries()).filter((l: any) => l.op === 'patch' && l.title === 'Paint the gate')
    expect(writes).to.have.length(3)
  })

  for (const order of ['cut first', 'pasted first'] as const)
    it(`what is cut from one account and pasted into another is not lost: ${order}`, async () => {
      const tobias = { user: 'tobias', password: 'glasshouse' }
      await readOnce(w, await keep(w, await begin(w, 'garden', tobias), { name: 'Garden of Tobias' }))
      const theirs = new GardenSide(w.standins, tobias.user, tobias.password)
      await desk.save('Ideas', 'House repairs', { deleted: { a: 'deleted', b: 'undated' } })
      const task = await w.bench.add('someday', { text: 'Oil the hinges', day: weekDay(2), hour: '11:00' })
      const event = await until('it has its event', () => eventTitled('house-repairs', 'Oil the hinges'))
      await desk.settled()
      const acts = [
        () => w.garden.remove('house-repairs', event.name),
        () => theirs.put('houses', 'pasted.ics', event.text),
      ]
      for (const act of order === 'cut first' ? acts : acts.toReversed()) await act()
      const drawn = async () =>
        ((await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items as any[]).filter(
          i => i.title === 'Oil the hinges',
        )
      await until('both stand for themselves', async () => (await drawn()).length === 2)
      await desk.settled()
      expect((await w.bench.get(task.id))?.day, 'its date').to.equal(weekDay(2))
      expect((await drawn()).map(i => i.kind).sort()).to.deep.equal(['event', 'task'])
      expect(await w.bench.titled('someday', 'Oil the hinges')).to.have.length(1)
    })
})
