import { expect } from 'chai'
import { type Asked, Plan, type Told } from '../../src/planning/plan.ts'
import { addDays, onDate, zoned } from '../../src/time/when.ts'
import { at, HOURS, MIN, MONDAY, task, usual, ZONE } from './asked.ts'
import { mustHold } from './oracle.ts'

/** What nobody would ask and somebody does: a draft comes of it, and says why not. */
const told = (more: Partial<Asked>): Told => {
  const plan = new Plan({ ...usual, ...more })
  const search = plan.search(1)
  search.step(100)
  const draft = search.draft()
  mustHold(plan.instance, draft.placement)
  return plan.told(draft)
}
const why = (t: Told): Record<string, string> => ({
  ...Object.fromEntries(t.notPlaced.map(n => [n.id, n.why.kind])),
  ...Object.fromEntries(t.left.map(l => [l.id, l.because])),
})
const window = {
  id: 'w',
  weekdays: [1],
  everyWeeks: 1,
  from: '2026-06-01',
  until: null,
  start: 600,
  end: 660,
  zone: ZONE,
  exceptions: {},
  onDaysOff: false,
  othersToo: false,
  spills: false,
}

describe('a draft of what cannot be', () => {
  it('places nothing where there are no working hours at all, on no day or in no minute', () => {
    for (const hours of [
      { ...HOURS, minutes: [0, 0, 0, 0, 0, 0, 0] },
      { ...HOURS, from: 540, to: 540 },
      { ...HOURS, off: Array.from({ length: 5 }, (_, n) => addDays(MONDAY, n)) },
      { ...HOURS, to: 300 },
    ]) {
      const t = told({ hours, tasks: [task('a')] })
      expect(t.pieces).to.deep.equal([])
      expect(why(t)).to.have.property('a')
    }
  })

  it('keeps a window that admits nothing empty, and what passes no window out of it', () => {
    const taken = [0, 1, 2, 3, 4].map(n => ({
      fromMs: at(addDays(MONDAY, n), '09:00'),
      toMs: at(addDays(MONDAY, n), '17:00'),
      isWork: true,
    }))
    // All that is left is the window, and that is for nothing of this.
    const open = taken.map((t, n) => (n === 0 ? { ...t, fromMs: at(MONDAY, '11:00') } : t))
    const early = { fromMs: at(MONDAY, '09:00'), toMs: at(MONDAY, '10:00'), isWork: true }
    const hours = { ...HOURS, minutes: [480, 480, 480, 480, 480, 0, 0] }
    const asked = { hours, windows: [window], taken: [...open, early] }
    const t = told({ ...asked, tasks: [task('a', { estimate: 30 })] })
    expect([t.pieces, why(t)]).to.deep.equal([[], { a: 'no room' }])
    const passing = task('b', { estimate: 30, windows: ['w'] })
    expect(told({ ...asked, breaks: null, tasks: [passing] }).pieces).to.have.length(1)
  })

  it('says of a task that is longer than any span, than all of them, or absurdly long, how much of it fits', () => {
    const whole = { ...usual.terms, splitFrom: Number.MAX_SAFE_INTEGER }
    expect(why(told({ tasks: [task('a', { estimate: 500 })], terms: whole }))).to.deep.equal({ a: 'no room' })
    const long = told({ tasks: [task('a', { estimate: 400 * 60 })], breaks: null })
    expect(why(long)).to.deep.equal({ a: 'too little' })
    expect(long.pieces.length).to.be.greaterThan(0)
  })

  it('takes no time for an estimate of nothing, and leaves a circle and what follows it out', () => {
    const wait = (id: string) => ({ id, gap: 0, endsMs: null })
    const t = told({
      tasks: [
        task('nothing', { estimate: 0 }),
        task('over', { taken: 60 }),
        task('one', { waitsFor: [wait('two')] }),
        task('two', { waitsFor: [wait('three')] }),
        task('three', { waitsFor: [wait('one')] }),
        task('after', { waitsFor: [wait('one')] }),
        task('itself', { waitsFor: [wait('itself')] }),
        task('never', { waitsFor: [wait('')] }),
        task('fine'),
      ],
    })
    expect(why(t)).to.deep.equal({
      nothing: 'takes no time',
      over: 'overrun',
      one: 'in a circle',
      two: 'in a circle',
      three: 'in a circle',
      itself: 'in a circle',
      after: 'waits',
      never: 'waits',
    })
    expect(t.pieces.map(p => p.id)).to.deep.equal(['fine'])
  })

  it('places what is overdue, what is due on a day off, and what is due before it may begin', () => {
    const t = told({
      tasks: [
        task('past', { due: onDate('2020-01-01') }),
        task('long past', { due: zoned('1901-01-01T00:00:00', ZONE) }),
        task('on Sunday', { due: onDate(addDays(MONDAY, 6)) }),
        task('too early', { due: onDate(MONDAY), notBefore: addDays(MONDAY, 2) }),
      ],
    })
    expect(t.pieces.map(p => p.id).sort()).to.deep.equal(['long past', 'on Sunday', 'past', 'too early'])
  })

  it('works round meetings that overlap already, that never end, or end before they begin', () => {
    const span = (from: string, to: string, day = 0) => ({
      fromMs: at(addDays(MONDAY, day), from),
      toMs: at(addDays(MONDAY, day), to),
      isWork: true,
    })
    const taken = [
      span('09:00', '12:00'),
      span('10:00', '11:00'),
      span('11:30', '13:00'),
      span('15:00', '14:00'),
      { fromMs: at(addDays(MONDAY, 1), '09:00'), toMs: at(addDays(MONDAY, 900), '09:00'), isWork: true },
    ]
    const t = told({ taken, tasks: [task('a'), task('b')], breaks: null })
    expect(t.pieces).to.have.length(2)
    for (const p of t.pieces) expect(p.fromMs).to.be.at.least(at(MONDAY, '13:00'))
    for (const p of t.pieces) expect(p.toMs).to.be.at.most(at(MONDAY, '17:00'))
  })

  it('takes pins as they are, over one another, in the past and outside any hours', () => {
    const pin = (id: string, from: string) => ({
      id,
      regular: null,
      fromMs: at(MONDAY, from),
      toMs: at(MONDAY, from) + 60 * MIN,
    })
    const t = told({
      tasks: [task('a'), task('b'), task('c')],
      pinned: [pin('a', '10:00'), pin('b', '10:30'), pin('c', '22:00'), pin('gone', '12:00')],
    })
    const pinned = t.pieces.filter(p => p.isPinned).map(p => p.id)
    expect(pinned).to.include.members(['a', 'b', 'c'])
  })
})
