import { expect } from 'chai'
import fc from 'fast-check'
import { takenOf, tasksOf, TeamSearch, type TeamTold, tripsAmong } from '../../src/planning/index.ts'
import { type ClothItem, isWay, travelled, withTravel } from '../../src/view/index.ts'
import { drawnItem } from '../support/drawn-item.ts'
import { at, HOURS, MIN, MONDAY, usual as asUsual, ZONE } from './asked.ts'

const TRAVEL = {
  places: [
    { name: 'Long Room', minutes: 20 },
    { name: 'Quay', minutes: 35 },
  ],
  between: [],
}
const person = { id: 'me', zone: ZONE, now: at(MONDAY, '08:00') }
/** A long day, so that only hours bind. */
const hours = { ...HOURS, minutes: [600, 600, 600, 600, 600, 0, 0] }
const usual = { ...asUsual, hours, breaks: null }

const stay = (
  key: string,
  from: string,
  to: string,
  location = '',
  more: Partial<ClothItem> = {},
): ClothItem =>
  drawnItem(
    key,
    { kind: 'timed', startMs: at(MONDAY, from), endMs: at(MONDAY, to) },
    { kind: 'event', movable: false, location, people: ['me'], ...more },
  )
const chore = (key: string, location: string, estimate = 60, more: Partial<ClothItem> = {}): ClothItem =>
  drawnItem(key, { kind: 'none' }, { kind: 'task', estimate, location, people: ['me'], ...more })

function draftOf(items: readonly ClothItem[], days = 1): { told: TeamTold; search: TeamSearch } {
  const tasks = tasksOf(items, person, [], [], undefined, tripsAmong(items, TRAVEL, person))
  const taken = takenOf(withTravel(items, TRAVEL, 'me'), person)
  const search = new TeamSearch([{ person: 'me', asked: { ...usual, days, tasks, taken } }], 1)
  search.finish(60)
  return { told: search.told(), search }
}
const clock = (ms: number): string =>
  new Intl.DateTimeFormat('en-GB', { timeZone: ZONE, hour: '2-digit', minute: '2-digit' }).format(ms)
const times = ({ pieces }: TeamTold): string[] =>
  pieces.map(p => `${p.id} ${clock(p.fromMs)}–${clock(p.toMs)}`)
/** As the Cloth shows it: drafted work stands where it is done. */
const drawn = (items: readonly ClothItem[], { pieces }: TeamTold): ClothItem[] =>
  pieces.map((p, n) =>
    drawnItem(
      `piece ${n}`,
      { kind: 'timed', startMs: p.fromMs, endMs: p.toMs },
      { kind: 'block', of: p.id, people: ['me'], location: items.find(i => i.key === p.id)?.location ?? '' },
    ),
  )

describe('a task that is done at a place', () => {
  it('carries the way there and the way back', () => {
    const { told } = draftOf([chore('seeds', 'The Long Room, upstairs')])
    expect(times(told)).to.deep.equal(['seeds 09:20–10:20'])
    const narrow = [stay('early', '09:00', '12:00'), stay('late', '13:35', '17:00')]
    expect(draftOf([...narrow, chore('seeds', 'Long Room')]).told).to.deep.include({ pieces: [] })
    expect(draftOf([...narrow, chore('seeds', 'elsewhere')]).told.pieces).to.have.length(1)
    const [none] = draftOf([...narrow, chore('seeds', 'Long Room')]).told.notPlaced
    expect(none).to.deep.include({ minutes: 60, why: { kind: 'no room' } })
  })

  it('goes beside a stay there, which takes the way anyhow', () => {
    const meeting = stay('meeting', '13:00', '14:00', 'Long Room')
    expect(times(draftOf([meeting, chore('seeds', 'Long Room')]).told)).to.deep.equal(['seeds 12:00–13:00'])
    // What is free there is as long as the task alone.
    const around = [stay('early', '09:00', '12:40'), stay('late', '15:20', '17:00')]
    expect(times(draftOf([meeting, ...around, chore('seeds', 'Long Room')]).told)).to.deep.equal([
      'seeds 14:00–15:00',
    ])
    // Elsewhere is no stay of its own place.
    expect(draftOf([meeting, ...around, chore('fish', 'Quay')]).told.pieces).to.have.length(0)
  })

  it('carries its ways where others stand beside the stay, and where that would be too late', () => {
    const meeting = stay('meeting', '13:00', '14:00', 'Long Room')
    const around = [stay('early', '11:00', '12:40'), stay('late', '14:20', '17:00')]
    expect(times(draftOf([meeting, ...around, chore('seeds', 'Long Room')]).told)).to.deep.equal([
      'seeds 09:20–10:20',
    ])
    const two = [chore('seeds', 'Long Room', 60, { priority: 1 }), chore('bulbs', 'Long Room')]
    const one = [stay('late', '14:20', '17:00')]
    const drafted = draftOf([meeting, ...one, ...two]).told
    expect(drafted.notPlaced).to.deep.equal([])
    expect(times(drafted)).to.include('seeds 12:00–13:00')
    const due = { due: MONDAY, dueAt: at(MONDAY, '11:00') }
    expect(times(draftOf([meeting, chore('seeds', 'Long Room', 60, due)]).told)).to.deep.equal([
      'seeds 09:20–10:20',
    ])
  })

  it('says why it stands no earlier, for the time in which it would stand', () => {
    const { told, search } = draftOf([stay('early', '09:00', '10:00'), chore('seeds', 'Long Room')])
    expect(times(told)).to.deep.equal(['seeds 10:20–11:20'])
    const why = search.whyNotEarlier('me', 'seeds', at(MONDAY, '10:20'))
    expect(why.at(-1)).to.deep.include({ toMs: at(MONDAY, '10:20'), blocker: { kind: 'taken' } })
    const meeting = stay('meeting', '13:00', '14:00', 'Long Room')
    const beside = draftOf([meeting, chore('seeds', 'Long Room')])
    const kinds = beside.search.whyNotEarlier('me', 'seeds', at(MONDAY, '12:00')).map(w => w.blocker.kind)
    expect(kinds).to.include('further ways')
  })

  it('one that is pinned keeps others from its ways', () => {
    const items = [chore('seeds', 'Long Room'), chore('plain', '')]
    const tasks = tasksOf(items, person, [], [], undefined, tripsAmong(items, TRAVEL, person))
    const pinned = [{ id: 'seeds', regular: null, fromMs: at(MONDAY, '09:40'), toMs: at(MONDAY, '10:40') }]
    const search = new TeamSearch([{ person: 'me', asked: { ...usual, days: 1, tasks, pinned } }], 1)
    search.finish()
    expect(times(search.told())).to.deep.equal(['seeds 09:40–10:40', 'plain 11:00–12:00'])
  })

  it('stands so that the ways of the day, told anew, meet nothing that stands, and all of its time is there', function () {
    this.timeout(60_000)
    const WORDS = ['Long Room', 'Quay', '', '']
    const event = fc.record({
      from: fc.integer({ min: 0, max: 95 }),
      length: fc.integer({ min: 3, max: 24 }),
      place: fc.constantFrom(...WORDS),
    })
    const work = fc.record({ minutes: fc.integer({ min: 1, max: 24 }), place: fc.constantFrom(...WORDS) })
    let beside = 0
    fc.assert(
      fc.property(
        fc.array(event, { maxLength: 5 }),
        fc.array(work, { minLength: 1, maxLength: 5 }),
        (events, works) => {
          let free = at(MONDAY, '09:00')
          const standing = events
            .sort((x, y) => x.from - y.from)
            .flatMap((e, n) => {
              const startMs = Math.max(free, at(MONDAY, '09:00') + e.from * 5 * MIN)
              const endMs = startMs + e.length * 5 * MIN
              free = endMs
              const place = { kind: 'timed' as const, startMs, endMs }
              return [
                drawnItem(`e${n}`, place, {
                  kind: 'event',
                  location: e.place,
                  people: ['me'],
                  movable: false,
                }),
              ]
            })
          const chores = works.map((w, n) => chore(`t${n}`, w.place, w.minutes * 5))
          const items = [...standing, ...chores]
          const { told } = draftOf(items, 2)
          const pieces = drawn(items, told)
          const after = travelled([...items, ...pieces], TRAVEL)
          const before = travelled(items, TRAVEL)
          const drafted = new Set(pieces.map(p => p.key))
          expect(after.tooShort.filter(t => drafted.has(t.before) || drafted.has(t.after))).to.deep.equal([])
          const shown = withTravel([...items, ...pieces], TRAVEL, 'me')
          for (const p of pieces)
            for (const other of shown) {
              if (other.key === p.key || p.place.kind !== 'timed' || other.place.kind !== 'timed') continue
              const meets = p.place.startMs < other.place.endMs && other.place.startMs < p.place.endMs
              expect(meets, `${p.key} ${other.key}`).to.equal(false)
            }
          const long = (all: typeof after): number => all.ways.reduce((s, w) => s + w.toMs - w.fromMs, 0)
          const atPlaces = pieces.filter(p => p.location !== '').length
          expect(long(after) - long(before)).to.be.at.most(atPlaces * 70 * MIN)
          if (atPlaces > 0 && long(after) <= long(before)) beside++
          for (const [n, w] of works.entries()) {
            const placed = told.pieces.reduce(
              (s, p) => (p.id === `t${n}` ? s + (p.toMs - p.fromMs) / MIN : s),
              0,
            )
            const left = told.notPlaced.reduce((s, p) => (p.id === `t${n}` ? s + p.minutes : s), 0)
            expect(placed + left, `t${n}`).to.equal(w.minutes * 5)
          }
          expect(shown.filter(i => isWay(i.key)).every(i => i.onlyLook)).to.equal(true)
        },
      ),
      { numRuns: 400 },
    )
    expect(beside, 'drafts that needed no further way').to.be.greaterThan(10)
  })
})
