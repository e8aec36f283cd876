import { expect } from 'chai'
import { type Standing, standingText } from '@loom/core'
import { FORGOTTEN_MS } from '../src/http/presence.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** Who else has some of the same days open. */
describe('presence', function () {
  this.timeout(40_000)
  let w: World
  let tobias: Client
  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
  })
  after(() => w.close())
  const here = async (who: Client, page: string, from: string, to: string): Promise<string[]> =>
    (await who.call('PUT', `/presence/${page}`, { from, to })).body.others.map((o: any) => o.name)

  it('names those who have the days open, in whatever page, and nobody else', async () => {
    expect(await here(w.client, 'page-of-ines', weekDay(0), weekDay(6))).to.deep.equal([])
    expect(await here(tobias, 'page-of-tobias', weekDay(6), weekDay(12))).to.deep.equal(['Ines Varga'])
    expect(await here(w.client, 'page-of-ines', weekDay(0), weekDay(6))).to.deep.equal(['Tobias Lund'])
    expect(await here(tobias, 'page-of-tobias', weekDay(7), weekDay(13))).to.deep.equal([])
    expect(await here(tobias, 'another-page', weekDay(0), weekDay(0))).to.deep.equal(['Ines Varga'])
    // Two pages of one person are one person; a page of somebody else cannot be spoken for.
    expect(await here(w.client, 'second-of-ines', weekDay(0), weekDay(20))).to.deep.equal(['Tobias Lund'])
    await here(w.client, 'another-page', weekDay(30), weekDay(31))
    expect(await here(w.client, 'page-of-ines', weekDay(0), weekDay(0))).to.deep.equal(['Tobias Lund'])
    await w.client.call('DELETE', '/presence/another-page')
    expect(await here(w.client, 'page-of-ines', weekDay(0), weekDay(0))).to.deep.equal(['Tobias Lund'])
    await tobias.call('DELETE', '/presence/another-page')
    expect(await here(w.client, 'page-of-ines', weekDay(0), weekDay(0))).to.deep.equal([])
  })

  it('bounds how many pages one member is said to have open', async () => {
    const span = { from: weekDay(40), to: weekDay(41) }
    const beats = await Promise.all(
      Array.from({ length: 60 }, (_, i) => tobias.call('PUT', `/presence/page-no-${100 + i}`, span)),
    )
    const more = await tobias.call('PUT', '/presence/page-no-999', span)
    expect([beats.some(b => b.status === 200), more.status]).to.deep.equal([true, 429])
    expect(await here(w.client, 'page-of-ines', weekDay(40), weekDay(41))).to.deep.equal(['Tobias Lund'])
    await w.app.ctx.db.run('DELETE FROM presence')
  })

  it('forgets a page that is not heard of, and takes no days that are none', async () => {
    await here(tobias, 'page-of-tobias', weekDay(0), weekDay(6))
    await w.app.ctx.db.run('UPDATE presence SET seen_at = seen_at - :ms WHERE page_id = :page', {
      ms: FORGOTTEN_MS + 1000,
      page: 'page-of-tobias',
    })
    expect(await here(w.client, 'page-of-ines', weekDay(0), weekDay(6))).to.deep.equal([])
    const refused = await w.client.call('PUT', '/presence/page-of-ines', { from: 'today', to: 'x' })
    expect(refused.status).to.equal(400)
    expect(
      (await w.client.call('PUT', '/presence/no', { from: weekDay(0), to: weekDay(1) })).status,
    ).to.equal(422)
  })

  it('tells the later of two drops what the earlier one did, and by whom', async () => {
    const item = async (): Promise<any> =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.find(
        (i: any) => i.title === 'Sand the benches',
      )
    const made = { what: 'task', title: 'Sand the benches', start: null, into: null, for: null }
    expect((await w.client.call('POST', '/cloth/make', made)).status).to.equal(201)
    const lists: any[] = (await w.client.call('GET', '/sharing')).body.lists
    const { id: list } = lists.find(l => l.own && l.isMine)
    const all = { changes: [{ list, to: { kind: 'everybody' }, level: 'change' }] }
    expect((await w.client.call('PUT', '/sharing', all)).status).to.equal(200)
    // Until its creation is confirmed it goes by another key.
    const seen = await until('it is there', async () => {
      const found = await item()
      return found?.pending ? null : found
    })
    const putOn = (who: Client, day: string, was: object) => {
      const edit = { do: 'place', start: { kind: 'date', date: day } }
      const at = encodeURIComponent(standingText(was as Standing))
      return who.call('POST', `/cloth/${seen.key}/edit?was=${at}`, edit)
    }
    const earlier = await putOn(tobias, weekDay(2), seen)
    expect([earlier.status, earlier.body.meanwhile]).to.deep.equal([200, null])
    const later = await putOn(w.client, weekDay(3), seen)
    expect(later.status, 'the later one counts').to.equal(200)
    expect(later.body.meanwhile).to.include({ who: 'Tobias Lund' })
    expect(JSON.stringify(later.body.meanwhile.place)).to.include(weekDay(2))
    expect(JSON.stringify((await item()).place)).to.include(weekDay(3))
    // What one knows of is not told again.
    expect((await putOn(w.client, weekDay(4), await item())).body.meanwhile).to.equal(null)
    // Where nobody but oneself moved it (in another page), no name is told.
    expect((await putOn(w.client, weekDay(5), seen)).body.meanwhile.who).to.be.oneOf(['Tobias Lund', null])
  })
})
