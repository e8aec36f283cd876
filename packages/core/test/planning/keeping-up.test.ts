import { expect } from 'chai'
import fc from 'fast-check'
import { type KeepUp, keepUp, type Kept } from '../../src/planning/keeping-up.ts'
import { causeKey, confirmedOf, dueOf, type LaidPiece, type Stretch } from '../../src/planning/laid-pieces.ts'
import { seeded } from '../../src/planning/search.ts'
import type { PlanWindow } from '../../src/planning/settings.ts'
import { addDays, dayAt } from '../../src/time/when.ts'
import type { ClothItem } from '../../src/view/cloth-item.ts'
import { drawnItem } from '../support/drawn-item.ts'
import { at, HOURS, MONDAY, ZONE } from './asked.ts'

const MIN = 60_000
const HOUR = 60 * MIN
const window: PlanWindow = {
  id: 'w',
  name: 'Bench',
  start: 540,
  end: 1020,
  weekdays: [1, 2, 3, 4, 5],
  everyWeeks: 1,
  from: '2026-01-05',
  until: null,
  zone: ZONE,
  exceptions: {},
  onDaysOff: false,
  othersToo: true,
  spills: false,
  keepsUp: true,
  view: null,
  filter: [],
}
/** Written again, as what must be right is judged by it. */
const meet = (x: Stretch, y: Stretch): boolean => x.fromMs < y.toMs && y.fromMs < x.toMs
const timed = ({ fromMs, toMs }: Stretch): ClothItem['place'] => ({
  kind: 'timed',
  startMs: fromMs,
  endMs: toMs,
})

/** What a service does with what is written to it. */
type Manner = 'keeps' | 'rounds' | 'refuses' | 'echoes'
interface Block {
  piece: LaidPiece
  there: Stretch
  /** What it shows from look to look, the next one first; then `there`. */
  coming: { at: Stretch; pending: boolean }[]
  manner: Manner
  /** A person has put it there. */
  isMoved: boolean
  isGone: boolean
  length: number
}

/** A person's days with a plan in them, an hour's quarter at a time, as they turn out otherwise. */
class Days {
  now = at(MONDAY, '08:00')
  readonly tasks = new Map<string, ClothItem>()
  readonly blocks: Block[] = []
  readonly events = new Map<string, { at: Stretch; isUnsure: boolean }>()
  running: string | null = null
  window = window
  private count = 0

  constructor(
    private readonly random: () => number,
    readonly manners: readonly Manner[],
  ) {}

  some<T>(all: readonly T[]): T | undefined {
    return all[Math.floor(this.random() * all.length)]
  }

  lay(title: string, fromMs: number, minutes: number, due: string | null = null): Block {
    const task = drawnItem(title, { kind: 'none' }, { estimate: minutes, due, dueAt: null })
    this.tasks.set(title, task)
    const there = { fromMs, toMs: fromMs + minutes * MIN }
    const block: Block = {
      piece: {
        id: `laid ${title}`,
        key: `block ${title}`,
        task: title,
        wrote: there,
        before: null,
        base: null,
        moves: [],
        heldFor: null,
        due: null,
      },
      there,
      coming: [],
      manner: this.some(this.manners) ?? 'keeps',
      isMoved: false,
      isGone: false,
      length: there.toMs - there.fromMs,
    }
    block.piece = { ...block.piece, due: dueOf(this.asked(), task) }
    this.blocks.push(block)
    return block
  }
  land(fromMs: number, minutes: number, isUnsure = false): string {
    const key = `event ${++this.count}`
    this.events.set(key, { at: { fromMs, toMs: fromMs + minutes * MIN }, isUnsure })
    return key
  }

  items(): ClothItem[] {
    return [
      ...this.tasks.values(),
      ...this.blocks
        .filter(b => !b.isGone)
        .map(b => {
          const { at: place, pending } = b.coming[0] ?? { at: b.there, pending: false }
          return drawnItem(b.piece.key, timed(place), {
            kind: 'block',
            of: b.piece.task,
            busy: true,
            movable: true,
            pending,
          })
        }),
      ...[...this.events].map(([key, e]) =>
        drawnItem(key, timed(e.at), { kind: 'event', eventKind: 'other', busy: true, movable: false }),
      ),
    ]
  }
  asked(): KeepUp {
    return {
      items: this.items(),
      person: { id: 'ines', zone: ZONE, now: this.now },
      hours: HOURS,
      windows: [this.window],
      breaks: null,
      waits: {},
      laid: this.blocks.filter(b => !b.isGone).map(b => b.piece),
      unsure: new Set([...this.events].flatMap(([key, e]) => (e.isUnsure ? [key] : []))),
      running: this.running,
    }
  }
  /** As the server does it: what is confirmed is noted, what is kept up is written. */
  look(): Kept {
    const asked = this.asked()
    for (const piece of confirmedOf(asked)) this.blockOf(piece.id).piece = piece
    const kept = keepUp(this.asked())
    for (const { piece, from, to } of kept.moves) {
      const block = this.blockOf(piece.id)
      const moves = [...piece.moves, { atMs: this.now, fromMs: from.fromMs }]
      block.piece = { ...block.piece, before: from, wrote: to, base: null, moves }
      this.write(block, from, to)
    }
    for (const { piece, cause } of kept.asks) {
      const block = this.blockOf(piece.id)
      block.piece = { ...block.piece, heldFor: cause }
    }
    return kept
  }
  write(block: Block, from: Stretch, to: Stretch): void {
    const rounded = Math.floor(to.fromMs / (15 * MIN)) * 15 * MIN
    const onTheWay = { at: to, pending: true }
    block.coming = [onTheWay]
    if (block.manner === 'echoes') block.coming.push({ at: from, pending: false })
    if (block.manner === 'rounds') block.there = { fromMs: rounded, toMs: rounded + (to.toMs - to.fromMs) }
    else block.there = block.manner === 'refuses' ? from : to
  }
  pass(ms: number): void {
    this.now += ms
    for (const b of this.blocks) b.coming.shift()
  }
  blockOf(id: string): Block {
    const found = this.blocks.find(b => b.piece.id === id)
    if (!found) throw new Error(`no such piece: ${id}`)
    return found
  }

  /** Something comes in between. */
  happen(): void {
    const ahead = this.blocks.filter(b => !b.isGone && b.there.fromMs > this.now && b.coming.length === 0)
    const one = this.some(ahead)
    const dice = this.random()
    if (dice < 0.35 && one) {
      const early = Math.floor(this.random() * 3) * 15 * MIN
      this.land(one.there.fromMs - early, 30 + Math.floor(this.random() * 5) * 15, this.random() < 0.2)
    } else if (dice < 0.45) {
      const [first] = this.events.keys()
      if (first) this.events.delete(first)
    } else if (dice < 0.6) {
      const begun = this.blocks.find(b => b.there.fromMs <= this.now && this.now < b.there.toMs)
      if (begun) begun.there = { ...begun.there, toMs: begun.there.toMs + 30 * MIN }
    } else if (dice < 0.7 && one) {
      const task = this.tasks.get(one.piece.task)
      // Its rule removes what is left of its time.
      if (task) this.tasks.set(task.key, { ...task, done: true, status: 'completed' })
      one.isGone = true
    } else if (dice < 0.8 && one) {
      const task = this.tasks.get(one.piece.task)
      if (task) this.tasks.set(task.key, { ...task, due: dayAt(this.now, ZONE) })
    } else if (dice < 0.9 && one) {
      one.there = { fromMs: one.there.fromMs + 90 * MIN, toMs: one.there.toMs + 90 * MIN }
      one.isMoved = one.piece.base !== null
    } else this.running = this.some([null, ...this.tasks.keys()]) ?? null
  }
}

/** A Monday and a Tuesday with six to nine pieces, one after the other. */
function plannedDays(seed: number, manners: readonly Manner[]): Days {
  const random = seeded(seed)
  const days = new Days(random, manners)
  let [date, minute] = [MONDAY, 540]
  // Where there is little room, others have to give way.
  if (random() < 0.6) days.window = { ...window, until: addDays(MONDAY, 1), end: 840 }
  const many = 6 + Math.floor(random() * 4)
  for (let n = 0; n < many; n++) {
    const minutes = 30 + Math.floor(random() * 4) * 15
    if (minute + minutes > days.window.end) [date, minute] = [addDays(date, 1), 540]
    const clock = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`
    days.lay(`task ${n}`, at(date, clock), minutes, random() < 0.3 ? addDays(MONDAY, 3) : null)
    minute += minutes + Math.floor(random() * 3) * 15
  }
  days.look()
  return days
}

/** Everything that may never be so, whatever happened. Written without what it is a test of. */
function mustBeRight(before: KeepUp, days: Days, { moves, asks }: Kept): void {
  const { now } = days
  const itemOf = new Map(before.items.map(i => [i.key, i]))
  const goes = new Set(moves.map(m => m.piece.key))
  for (const { piece, from, to, cause } of moves) {
    const item = itemOf.get(piece.key)
    const block = days.blockOf(piece.id)
    expect(item?.pending, 'on its way').to.equal(false)
    expect(block.isMoved, `${piece.key}: a person put it there`).to.equal(false)
    expect(from.fromMs, 'begun').to.be.greaterThan(now)
    expect(to.fromMs, 'past').to.be.at.least(now)
    expect(to.toMs - to.fromMs, 'its length').to.equal(from.toMs - from.fromMs)
    const today = block.piece.moves.filter(m => dayAt(m.atMs, ZONE) === dayAt(now, ZONE))
    expect(today.length, 'moves of a day').to.be.at.most(3)
    if (cause === null) {
      expect(from.fromMs, 'soon').to.be.at.least(now + 2 * HOUR)
      expect(to.fromMs, 'soon').to.be.at.least(now + 2 * HOUR)
    } else expect(causeKey(cause)).not.to.equal(piece.heldFor && causeKey(piece.heldFor))
    if (cause?.kind === 'landed') {
      expect(meet(cause.at, from), 'its cause').to.equal(true)
      expect(days.events.get(cause.on)?.isUnsure).to.equal(false)
    }
    for (const other of before.items) {
      if (other.place.kind !== 'timed' || other.key === piece.key || goes.has(other.key)) continue
      const there = { fromMs: other.place.startMs, toMs: other.place.endMs }
      expect(meet(there, to), `${piece.key} onto ${other.key}`).to.equal(false)
    }
    for (const m of moves) if (m.piece !== piece) expect(meet(m.to, to), 'two at a time').to.equal(false)
  }
  for (const { piece } of asks) expect(goes.has(piece.key), 'asked and done').to.equal(false)
}

describe('a work window that is kept up', function () {
  this.timeout(240_000)

  it('moves what an event landed on, and nothing else', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('sluice', at(MONDAY, '10:00'), 60)
    days.lay('hinges', at(MONDAY, '13:00'), 60)
    days.look()
    days.land(at(MONDAY, '10:30'), 60)
    const { moves, asks } = days.look()
    expect(moves.map(m => [m.piece.task, m.to.fromMs, m.cause?.kind])).to.deep.equal([
      ['sluice', at(MONDAY, '09:00'), 'landed'],
    ])
    expect(asks).to.deep.equal([])
    days.pass(MIN)
    days.pass(MIN)
    expect(days.look().moves).to.deep.equal([])
  })

  it('moves nothing for what nobody has answered, nor outside its window, nor where it is not wanted', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('sluice', at(MONDAY, '10:00'), 60)
    days.look()
    days.land(at(MONDAY, '10:30'), 60, true)
    expect(days.look().moves).to.deep.equal([])
    days.land(at(MONDAY, '10:30'), 60)
    const asked = days.asked()
    for (const windows of [[], [{ ...window, keepsUp: false }], [{ ...window, start: 660 }]])
      expect(keepUp({ ...asked, windows }).moves).to.deep.equal([])
    expect(keepUp(asked).moves).to.have.length(1)
  })

  it('asks where there is no room, once', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('sluice', at(MONDAY, '10:00'), 60)
    days.look()
    for (let n = 0; n < 14; n++) days.land(at(addDays(MONDAY, n), '09:00'), 480)
    expect(days.look().asks.map(a => a.because)).to.deep.equal(['no room'])
    expect(days.look().asks).to.deep.equal([])
  })

  it('comes after what it waits for, wherever that is, and is asked about where nobody knows when that is over', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('panes', at(MONDAY, '14:00'), 60)
    days.look()
    days.land(at(MONDAY, '14:00'), 60)
    const keptWith = (endsMs: number | null) =>
      keepUp({ ...days.asked(), waits: { panes: [{ id: 'of a colleague', gap: 30, endsMs }] } })
    const [move] = keptWith(at(MONDAY, '15:00')).moves
    expect(move?.to.fromMs).to.be.at.least(at(MONDAY, '15:30'))
    expect(keptWith(null).asks.map(a => a.because)).to.deep.equal(['no room'])
  })

  it('takes nothing beyond its deadline', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('sluice', at(MONDAY, '14:00'), 120, MONDAY)
    days.lay('hinges', at(MONDAY, '11:30'), 120)
    days.land(at(MONDAY, '09:00'), 60)
    days.look()
    days.land(at(MONDAY, '15:30'), 90)
    const { moves, asks } = days.look()
    expect(asks).to.deep.equal([])
    expect(moves.map(m => [m.piece.task, m.cause?.kind ?? null])).to.deep.equal([['sluice', 'landed']])
    days.pass(MIN)
    days.pass(MIN)
    days.look()
    days.land(at(MONDAY, '12:00'), 240)
    expect(days.look().asks.map(a => [a.piece.task, a.because])).to.deep.equal([['sluice', 'too late']])
  })

  it('lets work that waits follow what it waits for', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('first', at(MONDAY, '12:00'), 60)
    days.lay('second', at(MONDAY, '13:00'), 60)
    days.look()
    days.land(at(MONDAY, '09:00'), 255)
    const waits = { second: [{ id: 'first', gap: 0, endsMs: null }] }
    const { moves } = keepUp({ ...days.asked(), waits })
    const of = new Map(moves.map(m => [m.piece.task, m.to]))
    expect([...of.keys()].sort()).to.deep.equal(['first', 'second'])
    expect(of.get('second')?.fromMs).to.be.at.least(of.get('first')?.toMs ?? Infinity)
  })

  it('never touches what a person moved', () => {
    const days = new Days(seeded(1), ['rounds'])
    const hinges = days.lay('hinges', at(MONDAY, '13:00'), 60)
    days.look()
    hinges.there = { fromMs: at(MONDAY, '14:00'), toMs: at(MONDAY, '15:00') }
    days.land(at(MONDAY, '14:00'), 30)
    expect(days.look()).to.deep.equal({ moves: [], asks: [] })
  })

  it('takes the time that has become free for what would be too late, and for nothing else', () => {
    const days = new Days(seeded(1), ['keeps'])
    const all = Array.from({ length: 4 }, (_, n) => days.land(at(addDays(MONDAY, n), '09:00'), 480))
    days.lay('sluice', at(addDays(MONDAY, 4), '10:00'), 60, addDays(MONDAY, 3))
    days.lay('hinges', at(addDays(MONDAY, 4), '13:00'), 60)
    expect(days.look()).to.deep.equal({ moves: [], asks: [] })
    days.events.delete(all[2] ?? '')
    const { moves } = days.look()
    expect(moves.map(m => [m.piece.task, m.cause?.kind])).to.deep.equal([['sluice', 'room']])
  })

  it('leaves what begins within two hours, unless something lies on it', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('sluice', at(MONDAY, '09:30'), 60, addDays(MONDAY, 3))
    days.look()
    const task = days.tasks.get('sluice')
    if (task) days.tasks.set('sluice', { ...task, due: addDays(MONDAY, -1) })
    expect(days.look().moves).to.deep.equal([])
    days.land(at(MONDAY, '10:00'), 30)
    expect(days.look().moves.map(m => m.cause?.kind)).to.deep.equal(['landed'])
  })

  it('moves what would be done too late, when its deadline comes nearer', () => {
    const days = new Days(seeded(1), ['keeps'])
    days.lay('sluice', at(addDays(MONDAY, 2), '10:00'), 60, addDays(MONDAY, 3))
    days.look()
    const task = days.tasks.get('sluice')
    if (task) days.tasks.set('sluice', { ...task, due: addDays(MONDAY, 1) })
    const { moves } = days.look()
    expect(moves.map(m => m.cause?.kind)).to.deep.equal(['deadline'])
    expect(dayAt(moves[0]?.to.toMs ?? 0, ZONE) <= addDays(MONDAY, 1)).to.equal(true)
  })

  it('keeps its limits on random days of landings, overruns and early ends, at services of any manner', () => {
    const told = { moves: 0, asks: 0, gaveWay: 0 }
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 ** 31 - 1 }), seed => {
        const days = plannedDays(seed, ['keeps', 'rounds', 'refuses', 'echoes'])
        for (let step = 0; step < 14; step++) {
          if (step % 2 === 0) days.happen()
          const before = days.asked()
          const kept = days.look()
          mustBeRight(before, days, kept)
          told.moves += kept.moves.length
          told.gaveWay += kept.moves.filter(m => m.cause === null).length
          told.asks += kept.asks.length
          days.pass(step % 2 === 0 ? MIN : 30 * MIN)
        }
        // In a world in which nothing happens any more, it comes to rest.
        days.running = null
        for (let look = 0; look < 5; look++) {
          mustBeRight(days.asked(), days, days.look())
          days.pass(0)
        }
        const refused = days.blocks.some(b => b.manner === 'refuses')
        const last = days.look()
        if (!refused) expect(last.moves, 'rest').to.deep.equal([])
      }),
      { numRuns: 1000 },
    )
    console.log(`    ${told.moves} moves, ${told.gaveWay} of them to make room, ${told.asks} questions`)
    expect(Math.min(...Object.values(told)), 'each kind comes up').to.be.greaterThan(0)
  })
})
