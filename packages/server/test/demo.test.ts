import { covered } from '@loom/core'
import { nextWorkday } from '@loom/standins'
import { expect } from 'chai'
import { now } from './support/clock.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** The demo shows the heart of the product at first sight. */
describe('the whole demo', function () {
  this.timeout(120_000)
  let w: World
  const dayOf = (place: { startMs: number }): string => new Date(place.startMs).toISOString().slice(0, 10)
  const get = async (path: string): Promise<any> => (await w.client.call('GET', path)).body

  before(async () => {
    w = await startWorld({ size: 'whole', story: true })
    await until('removals on hold', async () => (await get('/waiting/brake')).items.length > 3, 90_000)
  })
  after(() => w.close())

  it('has rules of five kinds that are on, each with ties', async () => {
    // One of them writes from Anouk's own time: it is hers, and Ines knows that there is another.
    const anouk = new Client(w.client.base)
    await anouk.signIn('anouk@quillmere.example')
    const { rules } = (await anouk.call('GET', '/rules')).body
    const hers = await get('/rules')
    expect([hers.rules.length, hers.others.length]).to.deep.equal([4, 1])
    expect(rules.map((r: any) => [r.settings.date, r.kinds.a, r.kinds.b, r.settings.title])).to.deep.equal([
      ['start', 'task', 'event', '{title}'],
      ['due', 'task', 'event', 'Due: {title}'],
      ['start', 'event', 'event', 'Busy'],
      ['start', 'task', 'task', '{title}'],
      ['start', 'task', 'event', '{title}'],
    ])
    for (const rule of rules) {
      expect(rule.state, rule.name).to.equal('on')
      expect(rule.ties, rule.name).to.be.greaterThan(2)
    }
  })

  it('tells of ten weeks of work: in the journal from its first day to now, in the calendar mostly done', async () => {
    const lines: any[] = []
    for (let before: number | undefined; ;) {
      const page = await get(`/journal${before === undefined ? '' : `?before=${before}`}`)
      lines.push(...page.lines)
      before = page.lines.at(-1)?.id
      if (!page.more) break
    }
    const days = (l: any): number => (now() - l.at) / 86_400_000
    expect(days(lines.at(-1))).to.be.greaterThan(66)
    expect(Math.min(...lines.map(days))).to.be.at.least(0)
    // Two that were written at the same moment may have taken their numbers the other way round.
    const MOMENT_MS = 1_000
    for (const [i, line] of lines.slice(1).entries()) expect(line.at).to.be.at.most(lines[i].at + MOMENT_MS)
    const { items } = await get(`/cloth?from=${weekDay(-28)}&days=7`)
    const jobs = items
      .filter(
        (i: any) => i.title.includes(', bed ') && i.place.kind === 'timed' && dayOf(i.place) < weekDay(-21),
      )
      .filter((i: any) => dayOf(i.place) >= weekDay(-28))
    expect(jobs).to.have.length(3)
    expect(jobs.filter((i: any) => i.done).length).to.be.within(2, 3)
  })

  it('has a conflict, work for each of the six, private time that others see as busy, and a day too full', async () => {
    const { conflicts } = await get('/waiting/conflicts')
    expect(conflicts.map((c: any) => c.field).sort()).to.deep.equal(['time', 'title'])
    const cloth = await get(`/cloth?from=${weekDay(-7)}&days=28`)
    for (const { name, id } of cloth.people)
      expect(
        cloth.items.filter((i: any) => i.people.includes(id)),
        name,
      ).not.to.have.length(0)
    const ines = cloth.people.find((p: any) => p.name === 'Ines Varga').id
    const full = cloth.items.filter(
      (i: any) =>
        i.people.includes(ines) && i.busy && i.place.kind === 'timed' && dayOf(i.place) === nextWorkday(),
    )
    const minutes = full.map((i: any) => ({ from: i.place.startMs / 60_000, to: i.place.endMs / 60_000 }))
    expect(covered(minutes)).to.be.greaterThan(390)
    // Of her own time Ines is told when it is taken, and Anouk what for.
    expect(cloth.sources.map((s: any) => s.name)).to.not.include('Own time')
    const anouk = new Client(w.client.base)
    await anouk.signIn('anouk@quillmere.example')
    const hers = (await anouk.call('GET', `/cloth?from=${weekDay(-7)}&days=28`)).body
    const own = hers.sources.find((s: any) => s.name === 'Own time').id
    const away = hers.sources.find((s: any) => s.name === 'Anouk away').id
    const dentist = hers.items.filter((i: any) => i.sources.includes(own))
    expect(cloth.items.some((i: any) => dentist.some((d: any) => d.title === i.title))).to.equal(false)
    expect(dentist).not.to.have.length(0)
    for (const i of dentist) expect(i.sources).to.include(away)
  })
})
