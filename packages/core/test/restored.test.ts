import { expect } from 'chai'
import fc from 'fast-check'
import { brake, goesBackwards, type Item, type Mirror, newTask, observe, plan } from '../src/index.ts'
import { inputFor } from './model/planning.ts'
import { World } from './model/world.ts'

const AT = Date.parse('2026-11-24T09:00:00Z')
const stamp = (minutes: number): string => new Date(AT + minutes * 60_000).toISOString()

/** What is seen of one task, version after version. */
function seenOnceAfterAnother(
  versions: { title: string; minutes: number | null; remoteId?: string }[],
): Mirror {
  let mirror: Mirror | null = null
  for (const [n, { title, minutes, remoteId = 't' }] of versions.entries()) {
    const item: Item = {
      ...newTask('t', { summary: title }),
      lastModified: minutes === null ? null : stamp(minutes),
    }
    const sighting = { remoteId, collectionId: 'c', revision: String(n), item }
    const looked = { before: AT + n * 60_000, now: AT + (n + 1) * 60_000, skew: 0, hasBaseline: true }
    const seen = observe(mirror, sighting, looked, 't')
    if (seen.kind !== 'same') mirror = seen.mirror
  }
  if (!mirror) throw new Error('nothing was seen')
  return mirror
}
const isRestored = (m: Mirror): boolean => m.seen.summary?.restored === true

describe('an item that goes back to an earlier version of itself', () => {
  it('is known by a modification time that it had before', () => {
    const back = [
      { title: 'First', minutes: 0 },
      { title: 'Second', minutes: 5 },
      { title: 'First', minutes: 0 },
    ]
    expect(isRestored(seenOnceAfterAnother(back))).to.equal(true)
    // Edited after that, it is somebody's word again.
    expect(isRestored(seenOnceAfterAnother([...back, { title: 'Third', minutes: 9 }]))).to.equal(false)
  })

  it('is no edit by a program whose clock is slow, nor one that says no time', () => {
    const edited = (minutes: number | null): Mirror =>
      seenOnceAfterAnother([
        { title: 'First', minutes: 0 },
        { title: 'Second', minutes: 50 },
        { title: 'Third', minutes },
      ])
    expect(isRestored(edited(20))).to.equal(false)
    expect(isRestored(edited(null))).to.equal(false)
    expect(isRestored(edited(-3 * 24 * 60)), 'older than anything that was seen').to.equal(true)
  })

  it('is also a copy of before that took its place, unlike what was moved as it was, or edited since', () => {
    const taken = (minutes: number): boolean =>
      isRestored(
        seenOnceAfterAnother([
          { title: 'First', minutes: 0 },
          { title: 'Second', minutes: 50 },
          { title: 'Third', minutes, remoteId: 'copy' },
        ]),
      )
    expect([20, 50, 60].map(taken)).to.deep.equal([true, false, false])
  })

  it('keeps few times, whatever happens to the item', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 60 }), { minLength: 1, maxLength: 60 }), times => {
        const m = seenOnceAfterAnother(times.map((minutes, n) => ({ title: `Version ${n}`, minutes })))
        expect((m.seen.lastModified?.before ?? []).length).to.be.at.most(12)
        expect(goesBackwards(m, m.item.lastModified)).to.equal(false)
      }),
    )
  })

  /** Ten pairs whose tasks were renamed; then so many go back to what they were. */
  function backup(count: number): World {
    const w = new World()
    for (let n = 0; n < 10; n++) w.addTask(`Bed ${n}`, `2026-11-25T1${n}:00:00`)
    for (let n = 0; n < 3; n++) w.pass()
    const before = [...w.tasks.items.values()].map(k => structuredClone(k))
    for (const { id, item } of before) w.edit('a', id, { summary: `${item.summary}, weeded` })
    for (let n = 0; n < 3; n++) w.pass()
    for (const kept of before.slice(0, count)) w.tasks.goBack(kept)
    w.observeAll()
    return w
  }
  const terms = (w: World) => ({
    sizeOf: () => 10,
    recent: () => 0,
    tiedOf: () => 0,
    approved: new Set<string>(),
    declined: new Set<string>(),
    collectionOf: () => 'a',
    collectionOfMirror: (id: string) => w.mirrors.get(id)?.collectionId ?? '',
  })

  it('says again what it said, and the journal names what gave way', () => {
    const w = backup(2)
    const decisions = plan(inputFor(w, w.rule))
    expect(decisions.map(d => [d.reason, d.on])).to.deep.equal([
      ['restored', 'a'],
      ['restored', 'a'],
    ])
    expect(decisions[0]?.overridden).to.deep.equal([
      { field: 'title', side: 'a', value: 'Bed 0', because: 'restored' },
    ])
    w.pass()
    expect([...w.tasks.items.values()].every(k => k.item.summary.endsWith('weeded'))).to.equal(true)
  })

  it('waits where many do so at once, and stands where a person says so', () => {
    const w = backup(8)
    const input = inputFor(w, w.rule)
    const { stopped } = brake(plan(input), terms(w))
    expect(stopped).to.have.length(8)
    const restore = new Set(stopped.slice(0, 1).map(d => d.tie?.id ?? ''))
    const [first, second] = plan({ ...input, restore })
    expect([first?.reason, first?.on]).to.deep.equal(['task-edited', 'b'])
    expect([second?.reason, second?.on]).to.deep.equal(['restored', 'a'])
  })

  it('gives way to an edit of the other side, and brings its own later edit over', () => {
    const w = backup(1)
    const [id] = [...w.tasks.items.keys()]
    const task = id ?? ''
    w.edit('b', w.eventOf(task)?.uid ?? '', { summary: 'Bed 0, mulched' })
    w.pass()
    w.pass()
    expect(w.task(task)?.summary).to.equal('Bed 0, mulched')
    w.edit('a', task, { summary: 'Bed 0, done with' })
    w.pass()
    w.pass()
    expect(w.eventOf(task)?.summary).to.equal('Bed 0, done with')
  })
})
