import { expect } from 'chai'
import fc from 'fast-check'
import { defaultSettings, plan, type RuleSettings, zoned } from '../src/index.ts'
import { BUSY_BACK, type Bug } from './model/bugs.ts'
import { inputFor } from './model/planning.ts'
import { plainService } from './model/service.ts'
import { World, ZONE } from './model/world.ts'

/** A private event tells the other side when it is, and nothing else, whichever way it comes to be private. */
describe('a private event', () => {
  const WED = '2026-11-25T09:00:00'
  const SECRET = 'Blood test'
  const fields: RuleSettings['fields'] = {
    ...defaultSettings.fields,
    categories: 'both',
    location: 'both',
    link: 'both',
  }
  const says = (w: World, name: 'a' | 'b'): string =>
    JSON.stringify([...w.services[name].items.values()].map(k => k.item))
  const told = (w: World): string => JSON.stringify([w.journal.map(j => j.fields), w.overridden])

  /** Two calendars, or a task list and a calendar, whose events become tasks. */
  const KINDS = [
    { of: 'two calendars', a: plainService('event') },
    { of: 'a list and a calendar', a: plainService('task') },
  ]
  for (const { of, a } of KINDS) {
    const world = (settings: Partial<RuleSettings> = {}, bug: Bug | null = null): World =>
      new World({ fields, made: { a: 'all', b: 'new' }, ...settings }, bug, { services: { a } })
    const withEvent = (w: World, kind: 'public' | 'private' | 'confidential'): string => {
      const id = w.addEvent(SECRET, WED, 45)
      w.edit('b', id, {
        class: kind,
        description: `${SECRET} notes`,
        location: `${SECRET} room`,
        categories: [SECRET],
      })
      for (let n = 0; n < 3; n++) w.pass()
      return id
    }
    const only = (w: World) => [...w.services.a.items.values()][0]?.item

    for (const kind of ['private', 'confidential'] as const)
      it(`is “Busy” on the other side, and stays itself: ${of}, ${kind}`, () => {
        const w = world()
        const event = withEvent(w, kind)
        expect([only(w)?.summary, says(w, 'a').includes(SECRET), told(w).includes(SECRET)]).to.deep.equal([
          'Busy',
          false,
          false,
        ])
        w.edit('b', event, {
          time: { anchor: zoned('2026-11-26T11:00:00', ZONE), minutes: 45 },
          summary: `${SECRET} 2`,
        })
        w.observeAll()
        expect(JSON.stringify(plan(inputFor(w, w.rule)).map(d => [d.title, d.writes]))).to.not.contain(SECRET)
        for (let n = 0; n < 3; n++) w.pass()
        const now = only(w)
        const when = now?.kind === 'event' ? now.time.anchor : now?.start
        expect([when, w.event(event)?.summary]).to.deep.equal([
          zoned('2026-11-26T11:00:00', ZONE),
          `${SECRET} 2`,
        ])
        // What somebody writes there is put back, and never travels.
        w.edit('a', [...w.services.a.items.keys()][0] ?? '', { summary: 'Busy, call later' })
        for (let n = 0; n < 3; n++) w.pass()
        expect([only(w)?.summary, w.event(event)?.summary, w.pass()]).to.deep.equal([
          'Busy',
          `${SECRET} 2`,
          0,
        ])
        expect([says(w, 'a').includes(SECRET), told(w).includes(SECRET)]).to.deep.equal([false, false])
      })

    it(`takes its words back from the other side when it becomes private, and gives them when it is no longer: ${of}`, () => {
      fc.assert(
        fc.property(fc.array(fc.constantFrom('public', 'private'), { minLength: 1, maxLength: 5 }), flips => {
          const w = world()
          const event = withEvent(w, 'public')
          expect(only(w)?.summary).to.equal(SECRET)
          for (const kind of flips) {
            w.edit('b', event, { class: kind as 'public' })
            for (let n = 0; n < 3; n++) w.pass()
            expect(says(w, 'a').includes(SECRET)).to.equal(kind === 'public')
            expect(only(w)?.summary).to.equal(kind === 'public' ? SECRET : 'Busy')
            expect([w.event(event)?.summary, w.event(event)?.description, w.pass()]).to.deep.equal([
              SECRET,
              `${SECRET} notes`,
              0,
            ])
          }
        }),
        { numRuns: 30 },
      )
    })

    /** Edits of both sides, and what must hold after each. */
    const toldApart = (bug: Bug | null) =>
      fc.property(
        fc.array(
          fc.record({
            side: fc.constantFrom('a' as const, 'b' as const),
            what: fc.constantFrom('title', 'notes', 'time'),
            n: fc.integer({ min: 0, max: 9 }),
          }),
          { minLength: 1, maxLength: 6 },
        ),
        edits => {
          const w = world({}, bug)
          const event = withEvent(w, 'private')
          for (const { side, what, n } of edits) {
            const id = side === 'b' ? event : ([...w.services.a.items.keys()][0] ?? '')
            const words = side === 'b' ? `${SECRET} ${n}` : `Busy ${n}`
            const at = zoned(`2026-11-2${5 + (n % 3)}T1${n}:00:00`, ZONE)
            const isTask = side === 'a' && only(w)?.kind === 'task'
            w.edit(
              side,
              id,
              what === 'title'
                ? { summary: words }
                : what === 'notes'
                  ? { description: words }
                  : isTask
                    ? { start: at }
                    : { time: { anchor: at, minutes: 45 } },
            )
            for (let k = 0; k < 3; k++) w.pass()
            expect([says(w, 'a').includes(SECRET), told(w).includes(SECRET)]).to.deep.equal([false, false])
            expect(says(w, 'b')).to.not.contain('Busy')
            expect(only(w)?.summary).to.equal('Busy')
          }
        },
      )
    it(`keeps its own words and tells none of them, whatever is edited: ${of}`, () => {
      fc.assert(toldApart(null), { numRuns: 60 })
    })
    it(`is guarded by that: a “Busy” that travels back is found: ${of}`, () => {
      expect(() => fc.assert(toldApart(BUSY_BACK), { numRuns: 2000 })).to.throw(/Property failed/)
    })

    it(`is copied by a rule that says so: ${of}`, () => {
      const w = world({ privateItems: 'copied' })
      withEvent(w, 'private')
      expect(only(w)?.summary).to.equal(SECRET)
    })
  }

  it('is not taken for private where it was made for a task', () => {
    const w = new World({ show: { as: 'busy', class: 'private' } })
    const task = w.addTask('Plan the beds', WED)
    for (let n = 0; n < 3; n++) w.pass()
    expect(w.eventOf(task)?.summary).to.equal('Plan the beds')
  })
})
