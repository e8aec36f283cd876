import { expect } from 'chai'
import fc from 'fast-check'
import {
  addDays,
  defaultSettings,
  type Lens,
  lensesOf,
  newest,
  newEvent,
  newTask,
  onDate,
  patchOf,
  plainTerms,
  type Rule,
  type RuleSettings,
  sameValue,
  type Side,
  type SideTerms,
  type Span,
  type TaskTime,
  type When,
  withPatch,
  zoned,
} from '../src/index.ts'

const TASK: SideTerms = { ...plainTerms, zone: 'Europe/Dublin', summaryMaxLength: 20, precision: 'minute' }
type Kinds = Rule['kinds']
const PAIRS: Record<'taskEvent' | 'taskTask' | 'eventEvent', Kinds> = {
  taskEvent: { a: 'task', b: 'event' },
  taskTask: { a: 'task', b: 'task' },
  eventEvent: { a: 'event', b: 'event' },
}

function ruleOf(
  kinds: Kinds,
  settings: Partial<RuleSettings> = {},
  terms: Partial<Rule['terms']> = {},
): Rule {
  const all = Object.fromEntries(Object.keys(defaultSettings.fields).map(f => [f, 'both']))
  return {
    id: 'r',
    kinds,
    home: { a: 'list', b: 'cal' },
    collections: { a: ['list'], b: ['cal'] },
    settings: { ...defaultSettings, fields: all as RuleSettings['fields'], ...settings },
    terms: { a: kinds.a === 'task' ? TASK : plainTerms, b: kinds.b === 'task' ? TASK : plainTerms, ...terms },
    zone: 'Europe/Dublin',
    newSince: 0,
  }
}
const rule = ruleOf(PAIRS.taskEvent)
const lensIn = (of: Rule, field: string): Lens => {
  const found = lensesOf(of).find(l => l.field === field)
  if (!found) throw new Error(field)
  return found
}
const lens = (field: string): Lens => lensIn(rule, field)

const text = fc.oneof(
  fc.constantFrom('✓ odd', '✓✓', '', '  ', 'a title far longer than twenty characters'),
  fc.string({ unit: 'grapheme', maxLength: 40 }),
)
const local = fc
  .record({
    d: fc.integer({ min: 1, max: 28 }),
    m: fc.integer({ min: 4, max: 9 }),
    h: fc.nat(23),
    q: fc.nat(59),
    s: fc.nat(59),
  })
  .map(({ d, m, h, q, s }) => {
    const two = (n: number): string => String(n).padStart(2, '0')
    return `2026-${two(m)}-${two(d)}T${two(h)}:${two(q)}:${two(s)}`
  })
const eventAnchor: fc.Arbitrary<When> = fc.oneof(
  fc.tuple(local, fc.constantFrom('Europe/Dublin', 'Asia/Kathmandu', 'UTC')).map(([l, z]) => zoned(l, z)),
  local.map(l => ({ kind: 'floating' as const, local: l })),
  local.map(l => onDate(l.slice(0, 10))),
)
const span: fc.Arbitrary<Span> = fc.record({ anchor: eventAnchor, minutes: fc.integer({ min: 5, max: 600 }) })
const taskTime: fc.Arbitrary<TaskTime> = fc.record({
  start: fc.oneof(
    fc.constant(null),
    local.map(l => onDate(l.slice(0, 10))),
    local.map(l => zoned(`${l.slice(0, 16)}:00`, 'Europe/Dublin')),
  ),
  estimate: fc.oneof(fc.constant(null), fc.integer({ min: 5, max: 480 })),
})

describe('lenses keep their laws', () => {
  /** What one side was told does not come back as an edit; what was cut or rounded is not destroyed by it. */
  function lawful<A, B>(
    of: Rule,
    field: string,
    a: fc.Arbitrary<A>,
    b: fc.Arbitrary<B>,
    mayBeNew = true,
  ): void {
    const l = lensIn(of, field)
    const check = (from: Side, x: unknown, y: unknown): void => {
      const there = l.put(from, x, y, undefined)
      if (there.kind !== 'value') return
      const back = l.put(from === 'a' ? 'b' : 'a', there.value, x, undefined)
      if (back.kind !== 'value') throw new Error(`${field}: what was written cannot be read back`)
      expect(
        l.same(from, back.value, x),
        `${field} ${from}: ${JSON.stringify([x, y, there.value, back.value])}`,
      ).to.equal(true)
    }
    fc.assert(
      fc.property(a, b, mayBeNew ? fc.boolean() : fc.constant(false), (av, bv, fresh) => {
        check('a', av, fresh ? null : bv)
        check('b', bv, fresh ? null : av)
      }),
    )
  }
  const plain = text.map(t => t.replace(/^(\s*✓\s*)+/, ''))
  const taskTitle = text.map(t => Array.from(t.trim()).slice(0, 20).join('')).filter(t => t !== '')
  const oneLine = taskTitle.map(t => t.replace(/\s+/g, ' ').trim()).filter(t => t !== '')

  it('title: marks, cuts at twenty characters, and emptiness', () => {
    lawful(rule, 'title', taskTitle, plain)
    lawful(ruleOf(PAIRS.taskTask), 'title', oneLine, oneLine)
    lawful(ruleOf(PAIRS.eventEvent), 'title', plain, plain)
  })
  it('title: words of the rule round it', () => {
    const framed = (template: string, afters: string[], mayBeNew: boolean): void => {
      const after = fc.constantFrom(...afters)
      const a = fc.record({ title: oneLine, before: fc.constant('Bench: '), after })
      const b = a.map(x => x.before + x.title + x.after)
      lawful(ruleOf(PAIRS.taskEvent, { title: template }), 'title', a, b, mayBeNew)
    }
    framed('Bench: {title}', [''], true)
    // What stands for a priority that is not there yet cannot be told from a title.
    framed('Bench: {title} (p{priority})', [' (p3)', ' (p)'], false)
  })
  it('time: zones, seconds, whole days, and every way to read a date', () => {
    for (const settings of [
      {},
      { date: 'due', dueIs: 'end' },
      { date: 'due', dueIs: 'start' },
      { noHour: 'hour' },
      { noHour: 'all-day' },
    ] as Partial<RuleSettings>[])
      lawful(ruleOf(PAIRS.taskEvent, settings), 'time', taskTime, span)
    lawful(ruleOf(PAIRS.eventEvent), 'time', span, span)
  })
  it('time: services that know only days, between tasks', () => {
    const day: SideTerms = { ...TASK, precision: 'day' }
    const days = taskTime.map(t => ({ ...t, start: t.start === null ? null : onDate('2026-05-09') }))
    lawful(ruleOf(PAIRS.taskTask, {}, { b: day }), 'time', taskTime, days)
    lawful(
      ruleOf(PAIRS.taskTask, {}, { b: day }),
      'due',
      taskTime.map(t => t.start),
      days.map(t => t.start),
    )
  })
  it('completion: a mark, how it is shown, and being cancelled', () => {
    const shown = fc.constantFrom('opaque' as const, 'transparent' as const)
    const event = fc.record({ marked: fc.boolean(), transparency: shown, open: shown })
    const task = fc.record({
      state: fc.constantFrom('open', 'done', 'cancelled'),
      open: fc.constantFrom('', 'ready'),
    })
    lawful(rule, 'completion', task, event)
    lawful(ruleOf(PAIRS.taskTask), 'completion', task, task)
  })
  it('priority: tables of different lengths and orders', () => {
    const priorities = [
      { a: 1, b: 9 },
      { a: 2, b: 9 },
      { a: 5, b: 4 },
      { a: 9, b: 1 },
    ]
    const table = ruleOf(PAIRS.taskTask, { priorities })
    lawful(table, 'priority', fc.constantFrom(1, 2, 5, 9), fc.constantFrom(9, 4, 1))
    expect(
      lensIn(table, 'priority').put('b', 9, 2, undefined),
      'of two that mean the same, the one there',
    ).to.deep.equal({
      kind: 'value',
      value: 2,
    })
  })
  it('people: each service’s own, by the members they are; strangers stay', () => {
    const terms = {
      a: { ...TASK, people: { '7': 'ines', '8': 'bram' } },
      b: { ...TASK, people: { ines: 'ines', mei: 'mei' } },
    }
    const l = lensIn(ruleOf(PAIRS.taskTask, {}, terms), 'people')
    expect(l.put('a', ['7', '8'], ['mei', 'guest'], undefined)).to.deep.equal({
      kind: 'value',
      value: ['guest', 'ines', 'mei'],
    })
    expect(l.put('b', ['mei'], ['7', '8', '99'], undefined)).to.deep.equal({
      kind: 'value',
      value: ['8', '99'],
    })
  })
  it('notes, categories, places and links', () => {
    lawful(rule, 'notes', text, text)
    lawful(ruleOf(PAIRS.eventEvent), 'location', text, text)
    lawful(rule, 'categories', fc.uniqueArray(text), fc.uniqueArray(text))
    expect(
      lens('categories').join?.(['x', 'new'], ['x', 'y'], { a: ['x', 'z'], b: ['x', 'z'] }),
    ).to.have.members(['x', 'new', 'y'])
  })

  it('what is written into an event reads back as what was meant', () => {
    fc.assert(
      fc.property(plain, fc.boolean(), span, text, (title, marked, time, notes) => {
        const completion = {
          marked,
          transparency: marked ? ('transparent' as const) : ('opaque' as const),
          open: 'opaque' as const,
        }
        const values: Record<string, unknown> = { title, completion, time, notes }
        const before = newEvent('u', time, { summary: '✓ before', description: 'old\n\nParts:\n☐ one' })
        const after = withPatch(before, patchOf(rule, 'b', values, before))
        for (const field of Object.keys(values))
          expect(sameValue(lens(field).read('b', after, undefined), values[field]), field).to.equal(true)
        expect(after.description.endsWith('Parts:\n☐ one'), 'the list of parts stays').to.equal(true)
      }),
    )
  })
})

describe('what a lens will not decide', () => {
  const put = (field: string, v: unknown, other: unknown, base?: { a: unknown; b: unknown }) =>
    lens(field).put('a', v, other, base)
  it('holds an edit of a title of which the task has only the beginning', () => {
    const long = 'Order moonflower plugs for the lower terrace'
    expect(put('title', 'Order moonflower pl!', long)).to.include({ kind: 'held' })
    expect(put('title', 'Order moonflower plu', long)).to.deep.equal({ kind: 'value', value: long })
  })

  it('holds a title whose frame was damaged, and joins a new frame with a new title', () => {
    const l = lensIn(ruleOf(PAIRS.taskEvent, { title: 'Bench: {title}' }), 'title')
    const base = { a: { title: 'Valve', before: 'Bench: ', after: '' }, b: 'Bench: Valve' }
    expect(l.put('b', 'Bench Valve', base.a, base)).to.include({ kind: 'held' })
    expect(l.put('b', 'Bench: Valves', base.a, base)).to.deep.equal({
      kind: 'value',
      value: { ...base.a, title: 'Valves' },
    })
    const reframed = { ...base.a, before: 'Bench 2: ' }
    expect(l.join?.(reframed, 'Bench: Valves', base)).to.deep.equal({ ...reframed, title: 'Valves' })
  })

  it('asks for no event where the task has no hour, but keeps an all-day one', () => {
    const allDay: Span = { anchor: onDate('2026-11-25'), minutes: 1440 }
    const task = { start: onDate('2026-11-27'), estimate: null }
    expect(put('time', task, null)).to.deep.equal({ kind: 'absent', reason: 'no-hour' })
    expect(put('time', task, allDay)).to.deep.equal({
      kind: 'value',
      value: { anchor: onDate('2026-11-27'), minutes: 1440 },
    })
    expect(put('time', { start: null, estimate: 30 }, allDay)).to.deep.equal({
      kind: 'absent',
      reason: 'no-date',
    })
  })

  it('keeps the length of an event when only the task’s hour changes, and follows a new estimate', () => {
    const event: Span = { anchor: zoned('2026-11-25T15:45:00', 'Asia/Kathmandu'), minutes: 75 }
    const was = { a: { start: zoned('2026-11-25T10:00:00', 'Europe/Dublin'), estimate: null }, b: event }
    const moved = { start: zoned('2026-11-25T11:00:00', 'Europe/Dublin'), estimate: null }
    expect(put('time', moved, event, was)).to.deep.equal({
      kind: 'value',
      value: { anchor: zoned('2026-11-25T16:45:00', 'Asia/Kathmandu'), minutes: 75 },
    })
    expect(put('time', { ...was.a, estimate: 120 }, event, was)).to.deep.equal({
      kind: 'value',
      value: { ...event, minutes: 120 },
    })
  })

  it('remembers how the event was shown before it was marked, and the status a task had while it was open', () => {
    const shown = newEvent(
      'u',
      { anchor: onDate('2026-01-01'), minutes: 1440 },
      { transparency: 'transparent' },
    )
    const base = lens('completion').read('b', shown, undefined)
    const done = put('completion', { state: 'done', open: 'ready' }, base)
    const open =
      done.kind === 'value' ? put('completion', { state: 'open', open: 'ready' }, done.value) : done
    expect(open).to.deep.equal({
      kind: 'value',
      value: { marked: false, transparency: 'transparent', open: 'transparent' },
    })
    const ready = newTask('t', { status: 'in-process', serviceStatus: 'ready' })
    const was = lens('completion').read('a', ready, undefined)
    const ticked = { ...ready, status: 'completed' as const, serviceStatus: 'ticked' }
    const now = lens('completion').read('a', ticked, was)
    expect(now).to.deep.equal({ state: 'done', open: 'ready' })
    const reopen = lens('completion').put(
      'b',
      { marked: false, transparency: 'opaque', open: 'opaque' },
      now,
      undefined,
    )
    expect(reopen.kind === 'value' && lens('completion').patch('a', reopen.value, ticked, {})).to.deep.equal({
      status: 'needs-action',
      serviceStatus: 'ready',
    })
  })
})

describe('which of two edits is newer', () => {
  it('says so only when the spans in which they came about do not overlap', () => {
    expect(newest({ without: 0, with: 5 }, { without: 5, with: 9 }, 'a')).to.deep.equal({
      side: 'b',
      because: 'newer',
    })
    expect(newest({ without: 7, with: 9 }, { without: 0, with: 7 }, 'b')).to.deep.equal({
      side: 'a',
      because: 'newer',
    })
    expect(newest({ without: 0, with: 6 }, { without: 5, with: 9 }, 'a')).to.deep.equal({
      side: 'a',
      because: 'fallback',
    })
  })

  it('gives the swapped answer when the sides are swapped', () => {
    const spans = fc
      .tuple(fc.nat(50), fc.nat(50))
      .map(([x, y]) => ({ without: Math.min(x, y), with: Math.max(x, y) + 1 }))
    fc.assert(
      fc.property(spans, spans, (a, b) => {
        const one = newest(a, b, 'a')
        const other = newest(b, a, 'b')
        expect(other.side).to.equal(one.side === 'a' ? 'b' : 'a')
      }),
    )
  })
})

describe('precision', () => {
  type Time = Span & { timed?: unknown }
  const val = <T>(l: Lens, from: Side, v: unknown, other: unknown): T => {
    const put = l.put(from, v, other, undefined)
    if (put.kind !== 'value') throw new Error(JSON.stringify(put))
    return put.value as T
  }
  const days = fc.integer({ min: -40, max: 40 })
  const hourOf = (when: When): string => (when.kind === 'date' ? '' : when.local.slice(10))
  const zoneOf = (when: When): string => (when.kind === 'zoned' ? when.zone : when.kind)
  /** The same hour on the days round it: about a clock change, one of another zone may fall on no day that is wanted. */
  const near = (when: When): When[] =>
    [-1, 0, 1].map(n =>
      when.kind === 'date'
        ? onDate(addDays(when.date, n))
        : { ...when, local: `${addDays(when.local.slice(0, 10), n)}${when.local.slice(10)}` },
    )
  const moved = ({ start, estimate }: TaskTime, by: number): TaskTime => ({
    start: start?.kind === 'date' ? onDate(addDays(start.date, by)) : start,
    estimate,
  })

  for (const date of ['start', 'due'] as const)
    for (const settings of [{}, { noHour: 'all-day' }, { noHour: 'hour' }, { dueIs: 'end' }] as const)
      it(`a list that knows days moves an event by whole days: ${date}, ${JSON.stringify(settings)}`, () => {
        const coarse: SideTerms = {
          ...TASK,
          ...(date === 'due' ? { duePrecision: 'day' } : { precision: 'day' }),
        }
        const l = lensIn(ruleOf(PAIRS.taskEvent, { ...settings, date }, { a: coarse }), 'time')
        fc.assert(
          fc.property(span, days, (b, by) => {
            const a = val<TaskTime>(l, 'b', b, null)
            expect(a.start?.kind).to.equal('date')
            const b2 = val<Time>(l, 'a', moved(a, by), b)
            expect([b2.minutes, hourOf(b2.anchor), zoneOf(b2.anchor)]).to.deep.equal([
              b.minutes,
              hourOf(b.anchor),
              zoneOf(b.anchor),
            ])
            const reads = (anchor: When) => val<TaskTime>(l, 'b', { ...b2, anchor }, a).start
            fc.pre(near(b2.anchor).some(at => sameValue(reads(at), moved(a, by).start)))
            expect(val<TaskTime>(l, 'b', b2, a).start, 'it reads back').to.deep.equal(moved(a, by).start)
            expect(val<Time>(l, 'a', a, b2), 'and comes back').to.deep.equal(b)
          }),
        )
      })

  for (const field of ['time', 'due'])
    it(`a list that knows days moves another list’s date by whole days: ${field}`, () => {
      const coarse: SideTerms = { ...TASK, precision: 'day', duePrecision: 'day' }
      const l = lensIn(ruleOf(PAIRS.taskTask, {}, { a: coarse, b: TASK }), field)
      const raw = (start: When | null) => (field === 'due' ? start : { start, estimate: null })
      const startOf = (x: unknown): When | null =>
        (field === 'due' ? x : (x as TaskTime).start) as When | null
      fc.assert(
        fc.property(eventAnchor, days, (when, by) => {
          const a = startOf(val(l, 'b', raw(when), null))
          const a2 = moved({ start: a, estimate: null }, by).start
          const b2 = startOf(val(l, 'a', raw(a2), raw(when)))
          expect([b2 && hourOf(b2), b2 && zoneOf(b2)]).to.deep.equal([hourOf(when), zoneOf(when)])
          const reads = (at: When | null) => startOf(val(l, 'b', raw(at), raw(a2)))
          fc.pre(b2 === null || near(b2).some(at => sameValue(reads(at), a2)))
          expect(reads(b2)).to.deep.equal(a2)
        }),
      )
    })

  it('an event that was all-day for a while has its length and its zone back', () => {
    const l = lensIn(ruleOf(PAIRS.taskEvent, { noHour: 'all-day' }), 'time')
    fc.assert(
      fc.property(span, local, (b, at) => {
        fc.pre(b.anchor.kind === 'zoned')
        const day = { start: onDate(at.slice(0, 10)), estimate: null }
        const allDay = val<Time>(l, 'a', moved(day, 1), b)
        fc.pre(allDay.anchor.kind === 'date')
        // As it is read at its service, beside what was agreed on.
        const read = l.read('b', newEvent('u', { anchor: allDay.anchor, minutes: allDay.minutes }), allDay)
        const again = val<Time>(
          l,
          'a',
          { start: zoned(`${at.slice(0, 16)}:00`, 'Europe/Dublin'), estimate: null },
          read,
        )
        expect([again.minutes, zoneOf(again.anchor)]).to.deep.equal([b.minutes, zoneOf(b.anchor)])
      }),
    )
  })

  it('what is due on a day stands at the last day of an event of several', () => {
    const l = lensIn(ruleOf(PAIRS.taskEvent, { date: 'due' }), 'time')
    const three = { anchor: onDate('2026-05-04'), minutes: 3 * 1440 }
    expect(val<TaskTime>(l, 'b', three, null).start).to.deep.equal(onDate('2026-05-06'))
    expect(val(l, 'a', { start: onDate('2026-05-07'), estimate: null }, three)).to.deep.equal({
      anchor: onDate('2026-05-05'),
      minutes: 3 * 1440,
    })
  })

  it('a priority that the table does not name never lands on a named one', () => {
    const pair = fc.record({ a: fc.integer({ min: 0, max: 9 }), b: fc.integer({ min: 0, max: 9 }) })
    fc.assert(
      fc.property(
        fc.array(pair, { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 0, max: 9 }),
        (table, raw) => {
          const l = lensIn(ruleOf(PAIRS.taskTask, { priorities: table }), 'priority')
          for (const [from, to] of [
            ['a', 'b'],
            ['b', 'a'],
          ] as const) {
            if (table.some(p => p[from] === raw)) continue
            const put = l.put(from, raw, null, undefined)
            const lands = put.kind === 'value' && table.some(p => p[to] === put.value)
            expect(lands).to.equal(false)
          }
        },
      ),
    )
  })
})
