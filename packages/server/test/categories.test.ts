import { expect } from 'chai'
import { eventText, property } from './support/garden.ts'
import { startWorld, until, weekDay, type World } from './support/world.ts'

describe('what the team calls its categories', function () {
  this.timeout(40_000)
  let w: World
  const day = weekDay(2)
  const event = (uid: string, category: string) =>
    eventText(uid, `About ${uid}`, day, '10:00', '11:00', [`CATEGORIES:${category}`])
  before(async () => {
    w = await startWorld()
    for (const [uid, category] of Object.entries({ elm: 'Trees', oak: 'Trees', ash: 'Woodland' }))
      await w.garden.put('house-repairs', `${uid}.ics`, event(uid, category))
    await until('they are there', async () => (await shown()).length === 3 && shown())
  })
  after(() => w.close())

  const cloth = async () => (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body
  const shown = async () => (await cloth()).items.filter((i: any) => /^About /.test(i.title)) as any[]
  const lines = async () => (await w.client.call('GET', '/categories')).body.categories as any[]
  const change = (body: object) => w.client.call('POST', '/categories/change', body)
  const named = async (name: string) => (await lines()).find(l => l.name === name)
  const there = async (uid: string) =>
    property((await w.garden.get('house-repairs', `${uid}.ics`)).text, 'CATEGORIES')
  const say = async (title: string, ...categories: string[]) => {
    const item = (await shown()).find((i: any) => i.title === title)
    return w.client.call('POST', `/cloth/${item.key}/edit`, { do: 'say', said: { categories } })
  }

  it('are those that services have, with how many items have each and where', async () => {
    const trees = await named('Trees')
    expect([trees.count, trees.dye]).to.deep.equal([2, null])
    expect(trees.there.map((t: any) => [t.word, t.count])).to.deep.equal([['Trees', 2]])
    expect((await lines()).some(l => ['Focus', 'Fixed', 'Movable'].includes(l.name))).to.equal(false)
  })

  it('make one of two for everybody, and write to each service what it says itself', async () => {
    const merged = await change({ do: 'rename', name: 'Woodland', to: 'Trees' })
    expect(merged.status).to.equal(200)
    await change({ do: 'rename', name: 'Trees', to: 'Hedges and trees' })
    await change({ do: 'dye', name: 'Hedges and trees', dye: '#4e6b35' })
    const line = await named('Hedges and trees')
    expect([line.count, line.dye]).to.deep.equal([3, '#4e6b35'])
    await w.client.signIn('tobias@quillmere.example')
    expect((await cloth()).categories).to.deep.equal([
      { name: 'Hedges and trees', dye: '#4e6b35', words: ['Woodland', 'Trees'] },
    ])
    await w.client.signIn()
    // What it says already stays; what it had no word for is written as its service says it most.
    await say('About ash', 'Hedges and trees', 'Wind')
    await until('it says so', async () => (await there('ash')) === 'Woodland,Wind')
    await say('About elm', 'Wind')
    await until('it says that', async () => (await there('elm')) === 'Wind')
    await say('About elm', 'Wind', 'Hedges and trees')
    await until('as its service says it', async () =>
      /^Wind,(Trees|Woodland)$/.test((await there('elm')) ?? ''),
    )
  })

  it('are taken back, and refused where they are no categories', async () => {
    const { before, after } = (await change({ do: 'part', name: 'Hedges and trees', word: 'Woodland' })).body
    expect((await named('Woodland'))?.count).to.be.greaterThan(0)
    const back = { do: 'restore', categories: before, after }
    await change({ do: 'dye', name: 'Wind', dye: '#1c6c77' })
    expect((await change(back)).status, 'somebody has said more since').to.equal(409)
    await change({ do: 'dye', name: 'Wind', dye: null })
    expect((await change(back)).status).to.equal(200)
    expect(await named('Woodland')).to.equal(undefined)
    const twice = ['Beds', 'beds'].map(name => ({ name, dye: '#4e6b35', words: [] }))
    expect((await change({ do: 'restore', categories: twice, after: before })).status).to.equal(400)
    expect((await change({ do: 'dye', name: 'x', dye: 'red;}' })).status).to.equal(400)
    expect((await change({ do: 'rename', name: 'x', to: ' ' })).status).to.equal(400)
  })
})
