import { expect } from 'chai'
import { type ClothItem, epochOf, zoned } from '@loom/core'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** A draft for several: what one may write is written, what one may not is asked of whose time it is. */
describe('a draft for others', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let anouk: Client
  let theirs = ''
  const id = { ines: '', tobias: '', anouk: '' }
  const ZONE = 'Europe/Dublin'

  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    anouk = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await anouk.signIn('anouk@quillmere.example')
    for (const [name, who] of Object.entries({ ines: w.client, tobias, anouk }))
      id[name as keyof typeof id] = (await who.call('GET', '/team')).body.me
    const { lists } = (await tobias.call('GET', '/sharing')).body
    theirs = lists.find((l: any) => l.own && l.isMine).id
    await share('title')
  })
  after(() => w.close())

  const share = (level: string) =>
    tobias.call('PUT', '/sharing', { changes: [{ list: theirs, to: { kind: 'everybody' }, level }] })
  const items = async (who: Client): Promise<ClothItem[]> =>
    (await who.call('GET', `/cloth?from=${weekDay(7)}&days=7`)).body.items
  const titled = (title: string, who = w.client): Promise<ClothItem> =>
    until(`"${title}"`, async () => (await items(who)).find(i => i.title === title && !i.pending))
  const make = async (who: Client, title: string, more: object = {}): Promise<ClothItem> => {
    const task = { what: 'task', title, start: null, estimate: 60, into: null, ...more }
    expect((await who.call('POST', '/cloth/make', task)).status).to.equal(201)
    return titled(title, who)
  }
  const at = (day: number, clock: string): number => epochOf(zoned(`${weekDay(day)}T${clock}:00`, ZONE), ZONE)
  const piece = (task: string, person: string, day: number, from: string, to: string, what = 'plan') => ({
    ...{ what, task, person, pinned: false },
    fromMs: at(day, from),
    toMs: at(day, to),
  })
  const apply = async (pieces: object[], who = w.client): Promise<any[]> => {
    const { status, body } = await who.call('POST', '/planning/apply', { pieces })
    expect(status).to.equal(200)
    return body.pieces
  }
  const asked = async (who: Client) => (await who.call('GET', '/requests')).body
  const answer = (who: Client, request: string, accept = true) =>
    who.call('POST', `/requests/${request}/answer`, { accept })

  it('writes the plan of what one may change, and says it of nobody else’s time', async () => {
    const { key } = await make(w.client, 'Zorblax gate', { for: id.tobias })
    await until('it is theirs', async () => (await titled('Zorblax gate')).people.includes(id.tobias))
    const [done] = await apply([piece(key, id.tobias, 7, '09:00', '10:00')])
    expect(done.ok).to.equal(true)
    expect(done.back.key).to.equal(key)
    await until('it stands there', async () => {
      const { place } = await titled('Zorblax gate')
      return place.kind === 'timed' && place.startMs === at(7, '09:00')
    })
    // The next one cannot stand there as well.
    const other = await make(w.client, 'Zorblax hinge', { for: id.tobias })
    const [refused, nobody] = await apply([
      piece(other.key, id.tobias, 7, '09:30', '10:00'),
      piece(other.key, 'nobody', 8, '09:30', '10:00'),
    ])
    expect(refused).to.deep.equal({ ok: false, reason: 'Zorblax gate stands there now.' })
    expect(nobody).to.deep.equal({ ok: false, reason: 'That person is not in this workspace.' })
  })

  it('asks once for all that is another’s; what they agree to is written as theirs, and can be taken back', async () => {
    await make(tobias, 'Quennip rake')
    await make(tobias, 'Quennip hedge', { estimate: 120 })
    const [rake, hedge] = [await titled('Quennip rake'), await titled('Quennip hedge')]
    expect(rake.onlyLook).to.equal(true)
    const answers = await apply([
      piece(rake.key, id.tobias, 8, '09:00', '10:00'),
      piece(hedge.key, id.tobias, 9, '09:00', '10:00', 'block'),
      piece(hedge.key, id.tobias, 10, '09:00', '10:00', 'block'),
    ])
    const requests = new Set(answers.map(a => a.back?.request))
    expect(requests.size).to.equal(1)
    const [request] = (await asked(tobias)).forMe
    expect(requests.has(request.id)).to.equal(true)
    expect(request.what.pieces.map((p: any) => [p.title, p.reason])).to.deep.equal([
      ['Quennip rake', null],
      ['Quennip hedge', null],
      ['Quennip hedge', null],
    ])
    expect((await asked(anouk)).forMe).to.deep.equal([])
    expect((await answer(anouk, request.id)).status).to.equal(404)
    expect((await answer(w.client, request.id)).status, 'one’s own').to.equal(404)

    const both = await Promise.all([answer(tobias, request.id), answer(tobias, request.id)])
    expect(both.map(b => b.status).sort(), 'once').to.deep.equal([200, 404])
    const done = both.find(b => b.status === 200)?.body
    expect(done.pieces.map((p: any) => p.ok)).to.deep.equal([true, true, true])
    await until('they have their time', async () => {
      const now = await items(tobias)
      const planned = now.find(i => i.key === rake.key)?.place
      const blocks = now.filter(i => i.of === hedge.key && !i.pending)
      return planned?.kind === 'timed' && planned.startMs === at(8, '09:00') && blocks.length === 2
    })
    expect((await asked(w.client)).mine[0]).to.include({ state: 'accepted', answeredBy: 'Tobias Lund' })
    for (const { back } of done.pieces)
      if (back.intent)
        await until('it is taken back', async () => {
          const { status } = await tobias.call('POST', `/cloth/made/${back.intent}/take-back`)
          return status === 200
        })
      else expect((await tobias.call('POST', `/cloth/${back.key}/edit`, back.edit)).status).to.equal(200)
    expect((await tobias.call('DELETE', `/requests/${request.id}/answer`)).status).to.equal(200)
    expect((await asked(tobias)).forMe.map((r: any) => r.id)).to.deep.equal([request.id])
    expect((await w.client.call('DELETE', `/requests/${request.id}`)).status).to.equal(200)
  })

  it('gives only what is as it was asked for and still free; where nothing is, it stays with its reason', async () => {
    await make(tobias, 'Plonkit well')
    await make(tobias, 'Plonkit wall')
    const [well, wall] = [await titled('Plonkit well'), await titled('Plonkit wall')]
    const [one] = await apply([
      piece(well.key, id.tobias, 10, '14:00', '15:00'),
      piece(wall.key, id.tobias, 10, '15:00', '16:00'),
    ])
    await tobias.call('POST', `/cloth/${well.key}/edit`, { do: 'rename', title: 'Plonkit fountain' })
    await titled('Plonkit fountain', tobias)
    const shown = (await asked(tobias)).forMe[0]
    expect(shown.what.pieces.map((p: any) => p.reason?.includes('what it is called') ?? null)).to.deep.equal([
      true,
      null,
    ])
    const done = await answer(tobias, one.back.request)
    expect(done.body.pieces.map((p: any) => p.ok)).to.deep.equal([true])
    expect((await asked(w.client)).mine[0].reason).to.match(/^1 of it has its time\. Since then/)

    const [two] = await apply([piece(wall.key, id.tobias, 11, '14:00', '15:00')])
    const meeting = { what: 'event', title: 'Plonkit talk', kind: 'other', guests: [], repeats: null }
    const start = { kind: 'zoned', local: `${weekDay(11)}T14:00:00`, zone: ZONE }
    const made = await tobias.call('POST', '/cloth/make', { ...meeting, start, minutes: 60, into: null })
    expect(made.status).to.equal(201)
    await titled('Plonkit talk', tobias)
    const refused = await answer(tobias, two.back.request)
    expect([refused.status, refused.body.reason]).to.deep.equal([409, 'Plonkit talk stands there now.'])
    expect((await asked(tobias)).forMe.map((r: any) => r.id)).to.deep.equal([two.back.request])
  })

  it('tells nobody what they do not see, and lets no member plan for others', async () => {
    await share('nothing')
    const [mine] = (await asked(w.client)).mine
    expect(mine.what.pieces.map((p: any) => [p.title, p.reason])).to.deep.equal([[null, null]])
    const { key } = await titled('Plonkit wall', tobias)
    const [hidden] = await apply([piece(key, id.tobias, 12, '09:00', '10:00')])
    const [absent] = await apply([piece('nothing', id.tobias, 12, '09:00', '10:00')])
    expect(hidden).to.deep.equal(absent)
    await share('title')
    const [byMember] = await apply([piece(key, id.tobias, 12, '09:00', '10:00')], anouk)
    expect(byMember).to.deep.equal({ ok: false, reason: 'Only coordinators plan the time of others.' })
  })
})
