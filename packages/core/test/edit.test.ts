import { expect } from 'chai'
import fc from 'fast-check'
import {
  clothItem,
  decideEdit,
  type Edit,
  type Event,
  type ItemSource,
  newEvent,
  newTask,
  noOwnLayer,
  type OwnLayer,
  onDate,
  shownAfter,
  type Task,
  withOpenEdit,
  zoned,
} from '../src/index.ts'

const ZONE = 'Europe/Dublin'
const viewer = { zone: ZONE, defaultMinutes: 30, now: Date.parse('2026-11-24T11:00:00Z') }
const source = <I extends Task | Event>(id: string, item: I, writable = true): ItemSource<I> => ({
  id,
  item,
  collectionId: `of ${id}`,
  pending: false,
  writable,
})
const wednesday = zoned('2026-11-25T10:00:00', ZONE)
const task = (patch: Partial<Task> = {}): ItemSource<Task> =>
  source('t', { ...newTask('t', { summary: 'Boiler' }), ...patch })
const event = (patch: Partial<Event> = {}): ItemSource<Event> =>
  source('e', { ...newEvent('e', { anchor: wednesday, minutes: 45 }, { summary: 'Boiler' }), ...patch })

function subject(t: ItemSource<Task> | null, e: ItemSource<Event> | null) {
  const item = clothItem(t, e, viewer)
  if (!item) throw new Error('nothing to draw')
  return { item, task: t, event: e }
}

describe('an edit is written to the item that owns what it changes', () => {
  it('places a task from the shelf by its planned date', () => {
    const plan = decideEdit(subject(task({ due: onDate('2026-11-27') }), null), {
      do: 'place',
      start: wednesday,
      minutes: 90,
    })
    expect(plan).to.deep.include({
      write: { mirrorId: 't', patch: { start: wednesday } },
      own: { mirrorId: 't', layer: { estimate: 90 } },
      inverse: { do: 'unplace' },
    })
  })

  it('moves a tied pair by its event, which holds the length, and stays in the event’s zone', () => {
    const there = event({ time: { anchor: zoned('2026-11-25T15:45:00', 'Asia/Kathmandu'), minutes: 45 } })
    const plan = decideEdit(subject(task({ start: wednesday }), there), {
      do: 'place',
      start: zoned('2026-11-26T09:00:00', ZONE),
    })
    expect(plan.ok && plan.write).to.deep.equal({
      mirrorId: 'e',
      patch: { time: { anchor: zoned('2026-11-26T14:45:00', 'Asia/Kathmandu'), minutes: 45 } },
    })
  })

  it('takes the hour from the task, not from the event', () => {
    const pair = subject(task({ start: wednesday }), event())
    const toDay = decideEdit(pair, { do: 'place', start: onDate('2026-11-26') })
    expect(toDay.ok && toDay.write).to.deep.equal({ mirrorId: 't', patch: { start: onDate('2026-11-26') } })
    const toShelf = decideEdit(pair, { do: 'unplace' })
    expect(toShelf.ok && toShelf.write).to.deep.equal({ mirrorId: 't', patch: { start: null } })
    expect(toShelf.ok && toShelf.inverse).to.deep.equal({ do: 'place', start: wednesday, minutes: 45 })
  })

  it('keeps the plan of a task whose service has no room for one, and takes it away again', () => {
    const lacking = { unsupported: new Set(['start', 'categories']) }
    for (const one of [
      { ...task(), ...lacking },
      { ...task(), writable: false },
    ]) {
      const plan = decideEdit(subject(one, null), { do: 'place', start: wednesday, minutes: 45 })
      expect(plan).to.deep.include({
        write: null,
        own: { mirrorId: 't', layer: { planMinutes: 45, plan: wednesday } },
        inverse: { do: 'unplace' },
      })
      const planned = {
        ...one,
        item: { ...one.item, start: wednesday },
        own: { ...noOwnLayer, plan: wednesday },
      }
      const back = decideEdit(subject(planned, null), { do: 'any-day', week: '2026-11-23' })
      expect(back).to.deep.include({
        write: null,
        own: {
          mirrorId: 't',
          layer: { week: '2026-11-23', putBy: null, plan: null, planMinutes: null },
        },
        inverse: { do: 'place', start: wednesday },
      })
    }
    const counted = { ...task({ start: wednesday, estimatedDuration: 480 }), ...lacking }
    const short = subject({ ...counted, own: { ...noOwnLayer, planMinutes: 45 } }, null)
    const { place } = short.item
    expect(place.kind === 'timed' && (place.endMs - place.startMs) / 60_000).to.equal(45)
    expect(decideEdit(short, { do: 'lengthen', minutes: 60 })).to.deep.include({
      own: { mirrorId: 't', layer: { planMinutes: 60 } },
      inverse: { do: 'lengthen', minutes: 45 },
    })
    const marked = decideEdit(subject({ ...task(), ...lacking }, null), {
      do: 'say',
      said: { categories: ['glass'] },
    })
    expect(marked.ok ? '' : marked.reason).to.match(/does not support marks/)
    const step = { ...counted, holdsEstimate: true, estimateStep: 240 }
    const fine = decideEdit(subject(step, null), { do: 'estimate', minutes: 75 })
    expect(fine.ok ? '' : fine.reason).to.match(/steps of 4 h/)
    expect(decideEdit(subject(step, null), { do: 'estimate', minutes: 480 }).ok).to.equal(true)
    const open = subject({ ...task(), unsupported: new Set(['status:cancelled']) }, null)
    const off = decideEdit(open, { do: 'cancel' })
    expect(off.ok ? '' : off.reason).to.match(/cannot cancel tasks/)
  })

  it('moves a pair by its event where the task’s service has no room for a plan, and draws it there', () => {
    const lacking = { ...task({ due: onDate('2026-11-25') }), unsupported: new Set(['start']) }
    const pair = subject(lacking, event())
    expect(pair.item.place.kind).to.equal('timed')
    const plan = decideEdit(pair, { do: 'place', start: onDate('2026-11-26') })
    expect(plan.ok && plan.write?.mirrorId).to.equal('e')
    // A rule that goes by the deadline: the task never has a plan of its own.
    expect(subject(task({ due: onDate('2026-11-25') }), event()).item.place.kind).to.equal('timed')
    expect(subject(task(), event()).item.place.kind).to.equal('none')
  })

  it('lengthens a task without an event in our own layer', () => {
    const plan = decideEdit(subject(task({ start: wednesday }), null), { do: 'lengthen', minutes: 60 })
    expect(plan).to.deep.include({
      write: null,
      own: { mirrorId: 't', layer: { estimate: 60 } },
      inverse: { do: 'lengthen', minutes: 30 },
    })
  })

  const refusals: [string, ReturnType<typeof subject>, Edit, RegExp][] = [
    ['a series', subject(null, event({ recurring: true })), { do: 'place', start: wednesday }, /repeats/],
    [
      'an event with guests',
      subject(null, event({ attendees: 2 })),
      { do: 'lengthen', minutes: 60 },
      /guests/,
    ],
    [
      'a read-only calendar',
      subject(null, source('e', event().item, false)),
      { do: 'place', start: wednesday },
      /only be read/,
    ],
    ['completing an event', subject(null, event()), { do: 'complete' }, /nothing to complete/],
    ['shelving an event', subject(null, event()), { do: 'unplace' }, /only tasks/],
    ['shelving what lies there', subject(task(), null), { do: 'unplace' }, /on the shelf already/],
    [
      'lengthening what has no hour',
      subject(task({ start: onDate('2026-11-25') }), null),
      { do: 'lengthen', minutes: 60 },
      /Only something with an hour/,
    ],
  ]
  for (const [what, on, edit, words] of refusals)
    it(`refuses ${what} and says why`, () => {
      const plan = decideEdit(on, edit)
      expect(plan.ok ? '' : plan.reason).to.match(words)
    })
})

describe('undo and what is shown at once', () => {
  const start = fc.constantFrom(wednesday, zoned('2026-11-27T16:30:00', ZONE), onDate('2026-11-26'))
  const edit: fc.Arbitrary<Edit> = fc.oneof(
    fc.record({ do: fc.constant('place' as const), start }),
    fc.record({ do: fc.constant('lengthen' as const), minutes: fc.integer({ min: 5, max: 600 }) }),
    fc.constantFrom<Edit>(
      { do: 'unplace' },
      { do: 'complete' },
      { do: 'reopen' },
      { do: 'cancel' },
      { do: 'rename', title: 'Another' },
      { do: 'any-day', week: '2026-11-30' },
      { do: 'put-by', until: '2027-01-04' },
      { do: 'put-by', until: '' },
      { do: 'put-by', until: null },
      { do: 'leave-out', out: true },
      { do: 'estimate', minutes: 75 },
      { do: 'say', said: { summary: 'Said', priority: 2 } },
      { do: 'say', said: { location: 'Fern house' } },
      { do: 'say', said: { due: onDate('2026-11-30') } },
      { do: 'say', said: { due: zoned('2026-11-30T23:30:00', 'America/Lima') } },
      { do: 'say', said: { due: null, categories: ['Glass'], description: 'Bring the key.' } },
      { do: 'say', said: { status: 'completed' } },
      { do: 'say', said: { status: 'in-process' } },
      { do: 'say', said: { transparency: 'transparent' } },
      { do: 'fix', movable: false },
      { do: 'fix', movable: true },
      { do: 'kind', kind: 'focus' },
      { do: 'spend', spent: true },
      { do: 'estimate', minutes: null },
    ),
  )
  const kept = (patch: Partial<Task>, layer: Partial<OwnLayer>): ItemSource<Task> => ({
    ...task({ ...patch, estimatedDuration: layer.estimate ?? null }),
    unsupported: new Set(['start', 'estimatedDuration']),
    own: { ...noOwnLayer, ...layer, plan: patch.start ?? null },
  })
  const putBy = { ...noOwnLayer, putBy: '2026-12-07' }
  const subjects = fc.constantFrom(
    subject(task(), null),
    subject({ ...task(), own: putBy }, null),
    subject({ ...task(), own: { ...noOwnLayer, week: '2026-11-23' } }, null),
    subject(task({ status: 'completed' }), null),
    subject(task({ status: 'cancelled' }), null),
    subject(task({ start: wednesday }), null),
    subject(task({ start: onDate('2026-11-25') }), null),
    subject(task({ start: wednesday }), event()),
    subject(null, event()),
    subject(null, event({ transparency: 'transparent', categories: ['fixed'] })),
    subject(null, event({ time: { anchor: onDate('2026-11-25'), minutes: 1440 } })),
    subject(task({ start: wednesday, due: onDate('2026-11-25') }), event()),
    // A list that keeps no plan and no estimate: both are ours.
    subject(kept({ start: wednesday }, { planMinutes: 90, estimate: 60 }), null),
    subject(kept({ due: onDate('2026-11-27') }, {}), null),
    subject(
      kept({ due: onDate('2026-11-25') }, {}),
      event({ time: { anchor: onDate('2026-11-25'), minutes: 1440 } }),
    ),
    subject(task({ due: onDate('2026-11-25') }), event()),
  )

  /** The subject as the services and our own layer would then hold it. */
  function after(
    s: ReturnType<typeof subject>,
    plan: ReturnType<typeof decideEdit>,
  ): ReturnType<typeof subject> {
    if (!plan.ok) throw new Error('refused')
    const patched = <I extends Task | Event>(x: ItemSource<I> | null): ItemSource<I> | null => {
      if (!x) return null
      const sent = plan.write?.mirrorId === x.id ? withOpenEdit(x, plan.write.patch) : x
      const layer = plan.own?.mirrorId === x.id ? plan.own.layer : {}
      const ours = {
        ...(layer.estimate !== undefined && { estimatedDuration: layer.estimate }),
        ...(layer.plan !== undefined && { start: layer.plan }),
      }
      return {
        ...sent,
        item: { ...sent.item, ...ours },
        own: { ...noOwnLayer, ...x.own, ...layer },
        leftOut: plan.leftOut ?? x.leftOut ?? false,
      }
    }
    return subject(patched(s.task), patched(s.event))
  }

  /** Once both services have answered. */
  const confirmed = ({ task: t, event: e }: ReturnType<typeof subject>) => {
    const settled = <I extends Task | Event>(x: ItemSource<I> | null): ItemSource<I> | null =>
      x && { ...x, pending: false, pendingStart: false }
    return subject(settled(t), settled(e))
  }

  const SHOWN = [
    'title',
    'busy',
    'due',
    'dueAt',
    'overdue',
    'planHere',
    'atDeadline',
    'status',
    'categories',
    'notes',
    'fixedBecause',
    'done',
    'cancelled',
    'place',
    'week',
    'putBy',
    'leftOut',
    'estimate',
    'priority',
    'location',
    'movable',
    'eventKind',
  ] as const

  it('draws at once what will stand there when the edit has arrived', () => {
    fc.assert(
      fc.property(subjects, edit, (s, e) => {
        const plan = decideEdit(s, e)
        // An event that shows a deadline follows it once the rule has moved it.
        if (!plan.ok || (s.item.atDeadline && e.do === 'say' && e.said.due !== undefined)) return
        const shown = shownAfter(s.item, e, viewer)
        const arrived = after(s, plan).item
        for (const k of SHOWN) expect(shown[k], k).to.deep.equal(arrived[k])
      }),
    )
  })

  it('comes back to where it was', () => {
    fc.assert(
      fc.property(subjects, edit, (s, e) => {
        const plan = decideEdit(s, e)
        if (!plan.ok || !plan.inverse) return
        const there = after(s, plan)
        const back = decideEdit(there, plan.inverse)
        if (!back.ok) throw new Error(back.reason)
        const again = confirmed(after(there, back)).item
        // A length that only the event knew is an estimate of the task after it has been away from there.
        for (const k of SHOWN) if (k !== 'estimate') expect(again[k], k).to.deep.equal(s.item[k])
      }),
    )
  })
})

describe('a tied pair is one item', () => {
  it('with the task’s words, the event’s place, both sources, and the overdue date', () => {
    const item = clothItem(
      task({ start: wednesday, due: onDate('2026-11-23') }),
      event({ location: 'House 3' }),
      viewer,
    )
    expect(item).to.include({
      kind: 'tied',
      title: 'Boiler',
      location: 'House 3',
      due: '2026-11-23',
      overdue: true,
    })
    expect(item?.sources).to.deep.equal(['of t', 'of e'])
    expect(item?.place).to.include({ kind: 'timed' })
  })

  it('shows nothing for a cancelled event', () => {
    expect(clothItem(null, event({ status: 'cancelled' }), viewer)).to.equal(null)
  })
})
