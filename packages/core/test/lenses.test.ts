import { expect } from 'chai'
import fc from 'fast-check'
import {
  defaultSettings,
  eventPatchOf,
  type Lens,
  lensesOf,
  newest,
  newEvent,
  newTask,
  onDate,
  type Rule,
  sameRaw,
  type Span,
  type TaskTime,
  type When,
  withPatch,
  zoned,
} from '../src/index.ts'

const rule: Rule = {
  id: 'r',
  a: 'list',
  b: 'cal',
  settings: defaultSettings,
  terms: { a: { zone: 'Europe/Dublin', summaryMaxLength: 20 }, b: { zone: null, summaryMaxLength: null } },
  zone: 'Europe/Dublin',
  enabledAt: 0,
}
const lens = (field: string): Lens => {
  const found = lensesOf(rule).find(l => l.field === field)
  if (!found) throw new Error(field)
  return found
}

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
  /** back(forth(a, b), a) = a: what was written does not come back as an edit. */
  function writesDoNotEcho<A, B>(field: string, a: fc.Arbitrary<A>, b: fc.Arbitrary<B | null>): void {
    fc.assert(
      fc.property(a, b, (av, bv) => {
        const there = lens(field).forth(av, bv, undefined)
        if (there.kind !== 'value') return
        expect(lens(field).back(there.value, av)).to.deep.equal({ kind: 'value', value: av })
      }),
    )
  }
  /** forth(back(b, a), b) = b: what was cut or rounded does not destroy what it was cut from. */
  function readsDoNotDestroy<A, B>(field: string, a: fc.Arbitrary<A | null>, b: fc.Arbitrary<B>): void {
    fc.assert(
      fc.property(a, b, (av, bv) => {
        const here = lens(field).back(bv, av)
        if (here.kind !== 'value') throw new Error('back always knows')
        expect(lens(field).forth(here.value, bv, undefined)).to.deep.equal({ kind: 'value', value: bv })
      }),
    )
  }
  const plain = text.map(t => t.replace(/^(\s*✓\s*)+/, ''))
  const taskTitle = text.map(t => Array.from(t.trim()).slice(0, 20).join('')).filter(t => t !== '')

  it('title: marks, cuts at twenty characters, and emptiness', () => {
    writesDoNotEcho('title', taskTitle, fc.oneof(fc.constant(null), plain))
    readsDoNotDestroy('title', fc.oneof(fc.constant(null), taskTitle), plain)
  })
  it('time: zones, seconds, whole days', () => {
    writesDoNotEcho('time', taskTime, fc.oneof(fc.constant(null), span))
    readsDoNotDestroy('time', fc.oneof(fc.constant(null), taskTime), span)
  })
  it('completion: a mark and how it is shown', () => {
    const completion = fc.record({
      marked: fc.boolean(),
      transparency: fc.constantFrom('opaque' as const, 'transparent' as const),
      open: fc.constantFrom('opaque' as const, 'transparent' as const),
    })
    writesDoNotEcho('completion', fc.boolean(), fc.oneof(fc.constant(null), completion))
    readsDoNotDestroy('completion', fc.oneof(fc.constant(null), fc.boolean()), completion)
  })
  it('notes', () => {
    writesDoNotEcho('notes', text, fc.oneof(fc.constant(null), text))
    readsDoNotDestroy('notes', fc.constant(null), text)
  })

  it('what is written into an event reads back as what was meant', () => {
    fc.assert(
      fc.property(plain, fc.boolean(), span, text, (title, marked, time, notes) => {
        const completion = {
          marked,
          transparency: marked ? ('transparent' as const) : ('opaque' as const),
          open: 'opaque' as const,
        }
        const before = newEvent('u', time, { summary: '✓ before' })
        const after = withPatch(before, eventPatchOf({ title, completion, time, notes }, before, '✓'))
        for (const l of lensesOf(rule)) {
          const meant = { title, completion, time, notes }[l.field]
          expect(sameRaw(l.readB(after, undefined), meant), l.field).to.equal(true)
        }
      }),
    )
  })
})

describe('what a lens will not decide', () => {
  it('holds an edit of a title of which the task has only the beginning', () => {
    const long = 'Order moonflower plugs for the lower terrace'
    expect(lens('title').forth('Order moonflower pl!', long, undefined)).to.include({ kind: 'held' })
    expect(lens('title').forth('Order moonflower plu', long, undefined)).to.deep.equal({
      kind: 'value',
      value: long,
    })
  })

  it('asks for no event where the task has no hour, but keeps an all-day one', () => {
    const allDay: Span = { anchor: onDate('2026-11-25'), minutes: 1440 }
    const task = { start: onDate('2026-11-27'), estimate: null }
    expect(lens('time').forth(task, null, undefined)).to.deep.equal({ kind: 'absent', reason: 'no-hour' })
    expect(lens('time').forth(task, allDay, undefined)).to.deep.equal({
      kind: 'value',
      value: { anchor: onDate('2026-11-27'), minutes: 1440 },
    })
    expect(lens('time').forth({ start: null, estimate: 30 }, allDay, undefined)).to.deep.equal({
      kind: 'absent',
      reason: 'no-date',
    })
  })

  it('keeps the length of an event when only the task’s hour changes, and follows a new estimate', () => {
    const event: Span = { anchor: zoned('2026-11-25T15:45:00', 'Asia/Kathmandu'), minutes: 75 }
    const was = { a: { start: zoned('2026-11-25T10:00:00', 'Europe/Dublin'), estimate: null } }
    const moved = { start: zoned('2026-11-25T11:00:00', 'Europe/Dublin'), estimate: null }
    expect(lens('time').forth(moved, event, was)).to.deep.equal({
      kind: 'value',
      value: { anchor: zoned('2026-11-25T16:45:00', 'Asia/Kathmandu'), minutes: 75 },
    })
    const estimated = { ...was.a, estimate: 120 }
    expect(lens('time').forth(estimated, event, was)).to.deep.equal({
      kind: 'value',
      value: { ...event, minutes: 120 },
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

describe('reading completion', () => {
  it('remembers how the event was shown before it was marked', () => {
    const base = lens('completion').readB(
      newEvent('u', { anchor: onDate('2026-01-01'), minutes: 1440 }, { transparency: 'transparent' }),
      undefined,
    )
    const done = lens('completion').forth(true, base, undefined)
    const open = done.kind === 'value' ? lens('completion').forth(false, done.value, undefined) : done
    expect(open).to.deep.equal({
      kind: 'value',
      value: { marked: false, transparency: 'transparent', open: 'transparent' },
    })
    expect(lens('completion').readA(newTask('t', { status: 'completed' }))).to.equal(true)
  })
})
