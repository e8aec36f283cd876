import { expect } from 'chai'
import { connectionOf } from './support/connecting.ts'
import { eventText } from './support/garden.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

/** A database of before the boundary: what was taken in then, and cannot be worked with, goes out of sight and is listed. */
describe('what an earlier version took in', function () {
  this.timeout(40_000)
  let w: World
  before(async () => {
    w = await startWorld()
    await until('the first pass is through', async () => (await w.garden.events('festival-work')).length >= 5)
  })
  after(() => w.close())

  it('is read again from its originals, once', async () => {
    const { db } = w.app.ctx
    const titles = async (): Promise<string[]> =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.map((i: any) => i.title)
    await w.garden.put(
      'garden-team',
      'old.ics',
      eventText('old', 'Taken in long ago', weekDay(2), '10:00', '11:00'),
    )
    await w.garden.put(
      'garden-team',
      'fine.ics',
      eventText('fine', 'Still fine', weekDay(2), '12:00', '13:00'),
    )
    await until('both are here', async () => {
      const all = await titles()
      return all.includes('Taken in long ago') && all.includes('Still fine')
    })
    // As an earlier version kept it: an original that this one does not understand, in a place no one else changed.
    const bad = eventText('old', 'Taken in long ago', weekDay(2), '10:00', '11:00').replace(
      'DTSTART;TZID=Europe/Dublin:',
      'DTSTART:',
    )
    await w.garden.put('garden-team', 'old.ics', bad.replace(/DTSTART:(\d{8})T\d{6}/, 'DTSTART:$1'))
    const mirror = await until('its mirror', () =>
      db.one<{ id: string; connection_id: string; remote_id: string }>(
        `SELECT id, connection_id, remote_id FROM mirrors WHERE uid = 'old'`,
      ),
    )
    const [id] = [mirror.connection_id]
    await db.run('UPDATE payloads SET original = :bad WHERE mirror_id = :id', {
      id: mirror.id,
      bad: bad.replace(/DTSTART:(\d{8})T\d{6}/, 'DTSTART:$1'),
    })
    await db.run(`UPDATE mirrors SET presence = 'present' WHERE id = :id`, { id: mirror.id })
    await db.run('DELETE FROM problems')
    await db.run(
      'UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.read_by = 0, l.next_look_at = 0 WHERE c.id = :id',
      { id },
    )
    await until('it is listed with its reason', async () => {
      const { problems } = (await w.client.call('GET', `/connections/${id}/problems`)).body
      return problems.some((p: any) => p.remoteId === mirror.remote_id && p.reason.length > 10)
    })
    await until('it was done', async () => {
      const row = await db.one<{ read_by: number }>('SELECT read_by FROM connections WHERE id = :id', { id })
      return row?.read_by !== 0 && (await connectionOf(w, id)).state === 'ok'
    })
    expect(await titles())
      .to.include('Still fine')
      .and.not.include('Taken in long ago')
  })
})
