import { expect } from 'chai'
import { FORGOTTEN_MS } from '../src/http/presence.ts'
import { Client, startWorld, weekDay, type World } from './support/world.ts'

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
})
