import { expect } from 'chai'
import type { RuleSettings } from '../../src/index.ts'
import type { Bug } from './bugs.ts'
import { mustHold, nothingFlaps } from './oracle.ts'
import { answer, conflicts, editHere, renewAnswers, say, undo } from './people.ts'
import { hasRobots, patchFor, reopen, rest, tally } from './living.ts'
import { comeBack, restoreBackup, stood } from './returns.ts'
import { LABELS, marked } from './titles.ts'
import { type Edit, HOURS, type Step } from './steps.ts'
import { type Fault, type Name, NAMES, World, type WorldOptions, ZONE } from './world.ts'

/** One random history, lived through. */

const namesOf = (world: World): Name[] => NAMES.filter(n => n !== 'c' || world.rules.length > 1)

/** Somebody edits at a service. */
function edit(world: World, s: Edit): void {
  const names = namesOf(world)
  const service = world.services[names[s.side % names.length] ?? 'a']
  const ids = [...service.items.keys()]
  const id = ids[s.pick % Math.max(1, ids.length)]
  const present = id === undefined ? undefined : service.items.get(id)?.item
  if (id === undefined || !present) return
  tally.edits++
  if (s.do === 'delete') {
    tally.deletions++
    service.delete('them', id)
  } else if (s.do === 'elsewhere') {
    tally.moves++
    service.move(id, world.fresh('m'))
  } else if (s.do === 'copy') {
    tally.copies++
    service.copy(id, world.fresh('k'))
  } else {
    const patch = patchFor(present, s.do, s)
    if (patch) service.patch('them', id, patch)
  }
}

function clash(world: World, s: Extract<Step, { do: 'clash' }>): void {
  const ties = world.activeTies()
  const tie = ties[s.pick % Math.max(1, ties.length)]
  const order = s.side % 2 ? ([tie?.b, tie?.a] as const) : ([tie?.a, tie?.b] as const)
  for (const [n, id] of order.entries()) {
    const kept = world.standing(id ?? null)
    const patch = kept && patchFor(kept.item, s.what, { at: 0, pick: 0, title: `${n} ${s.title}` })
    if (!id || !kept || !patch) continue
    tally.edits++
    world.serviceOf(id).patch('them', kept.id, patch)
    // Somebody looks in between, and has not planned yet.
    if (s.marks) world.observeAll()
    world.now += 700
  }
  const events = order.filter(id => id && world.serviceOf(id).can.kind === 'event')
  if (s.marks) mark(world, events[s.pick % Math.max(1, events.length)] ?? null)
}

/** Somebody puts a mark before an event's title, or takes it away. */
function mark(world: World, id: string | null): void {
  const kept = world.standing(id)
  if (id === null || kept?.item.kind !== 'event') return
  const patch = patchFor(kept.item, marked(kept.item.summary) ? 'reopen' : 'complete', {
    at: 0,
    pick: 0,
    title: '',
  })
  tally.edits++
  if (patch) world.serviceOf(id).patch('them', kept.id, patch)
  world.observeAll()
}

/** One of the two writes that a decision asks for is refused. */
function torn(world: World, s: Extract<Step, { do: 'torn' }>): void {
  const ties = world.activeTies()
  const tie = ties[s.pick % Math.max(1, ties.length)]
  if (!tie?.a || !tie.b) return
  const change = (): void => {
    if (s.what === 'mark') return mark(world, tie.b)
    for (const [n, id] of [tie.a, tie.b].entries()) {
      const kept = world.standing(id)
      const label = LABELS[n] ?? ''
      if (!id || !kept) continue
      tally.edits++
      const { categories } = kept.item
      const without = categories.filter(c => c !== label)
      const patch = { categories: without.length < categories.length ? without : [...categories, label] }
      world.serviceOf(id).patch('them', kept.id, patch)
    }
  }
  change()
  let sent = 0
  const faults: Fault[] = s.refused === 'first' ? ['edited-before', 'none'] : ['none', 'edited-before']
  world.pass({ fault: () => faults[sent++] ?? 'none' })
  if (s.again) change()
}

/** An edit on one side, and a deletion on the other. */
function cross(world: World, s: Extract<Step, { do: 'cross' }>): void {
  const ties = world.activeTies()
  const tie = ties[s.pick % Math.max(1, ties.length)]
  if (!tie?.a || !tie.b) return
  const [edited, gone] = s.side % 2 ? [tie.a, tie.b] : [tie.b, tie.a]
  const change = (id: string, at: number): void => {
    const kept = world.standing(id)
    const patch = kept && patchFor(kept.item, s.what, { at, pick: 1 + at, title: `${at} ${s.title}` })
    if (!kept || !patch) return
    tally.edits++
    world.serviceOf(id).patch('them', kept.id, patch)
  }
  change(edited, 1)
  if (s.held) {
    change(gone, 2)
    world.pass()
  }
  const kept = world.standing(gone)
  if (!kept) return
  tally.deletions++
  world.serviceOf(gone).delete('them', kept.id)
}

/** Somebody edits in our own screens. */
function here(world: World, s: Extract<Step, { do: 'here' }>): void {
  const names = namesOf(world)
  const name = names[s.side % names.length] ?? 'a'
  const there = [...world.mirrors.values()].filter(
    m => world.nameOf(m.id) === name && m.presence === 'present',
  )
  const m = there[s.pick % Math.max(1, there.length)]
  const patch = m && patchFor(m.item, s.what, s)
  if (!m || !patch) return
  tally.editsHere++
  editHere(world, m.id, patch)
}

/** A rule in other words leaves alone what was put back by hand. */
function staysPutBack(world: World, { mirror, want }: NonNullable<ReturnType<typeof undo>>): void {
  const fields = want.map(([f]) => f)
  const texts = (): unknown[] => {
    const item = world.standing(mirror)?.item
    return [fields.includes('title') && item?.summary, fields.includes('notes') && item?.description]
  }
  const before = texts()
  world.editRule(0, { title: world.rule.settings.title === '{title}' ? 'Bench: {title}' : '{title}' })
  rest(world)
  // An event of a task that is done may go with that.
  if (!world.standing(mirror)) return
  expect(texts(), 'what was put back stays when the rule is edited').to.deep.equal(before)
}

export function act(world: World, s: Step, stamp: number): void {
  switch (s.do) {
    case 'pass': {
      tally.passes++
      tally.faults += s.faults.filter(f => f !== 'none').length
      let i = 0
      world.pass({
        fault: () => s.faults[i++] ?? 'none',
        meddle: (service, id) => void service.patch('them', id, { summary: `after ${stamp}` }),
        early: s.early,
        overtaken: s.overtaken,
        stops: s.stops ?? null,
      })
      renewAnswers(world)
      return
    }
    case 'add': {
      const names = namesOf(world)
      const name = names[s.side % names.length] ?? 'a'
      const local = HOURS[s.at] ?? ''
      if (world.services[name].can.kind === 'task') world.addTask(s.title, local, name, s.repeats)
      else world.addEvent(s.title, local, 45, ZONE, name)
      return
    }
    case 'undo': {
      reopen(world)
      rest(world)
      const undone = undo(world, s.pick)
      if (!undone) return
      tally.undone++
      // Undo is exact, and stays so until somebody edits. To other rules it is an edit, which goes on round a ring.
      if (world.rules.length > 1) return
      const before = world.standing(undone.mirror)?.item
      rest(world)
      const after = world.standing(undone.mirror)?.item
      // A robot edits on, on whichever side it is.
      if (before && after && !hasRobots(world) && undone.want.some(([f]) => f === 'title' || f === 'notes'))
        expect([after.summary, after.description], 'what was put back stays').to.deep.equal([
          before.summary,
          before.description,
        ])
      if (s.side > 0 && !hasRobots(world)) staysPutBack(world, undone)
      return
    }
    case 'answer':
      return answer(world, s.pick, s.side % 2 ? 'b' : 'a')
    case 'lose': {
      const [local, { a, b }] = [HOURS[s.at] ?? '', world.services]
      if (a.can.kind === 'task') world.addTask(s.title, local)
      else world.addEvent(s.title, local, 45, ZONE, 'a')
      world.pass({ fault: () => (s.made ? 'answer-lost' : 'never-arrived') })
      if (s.closes) b.closed = 'vanished'
      b.wasClosed ||= s.closes
      world.now += 15_000
      world.pass()
      return
    }
    case 'say':
      tally.asked += world.intents.filter(i => i.by === 'rule' && i.asks).length
      return say(world, s.word)
    case 'clash':
      return clash(world, s)
    case 'torn':
      return torn(world, s)
    case 'cross':
      return cross(world, s)
    case 'return':
      return comeBack(world, s)
    case 'stood':
      return stood(world, s)
    case 'backup':
      return restoreBackup(world, s)
    case 'here':
      return here(world, s)
    case 'pause':
      tally.pauses++
      return world.pause(s.pick % world.rules.length)
    case 'close': {
      const names = namesOf(world)
      const service = world.services[names[s.side % names.length] ?? 'a']
      tally.closures++
      service.closed = service.closed === 'no' ? s.how : 'no'
      service.wasClosed = true
      return
    }
    case 'rule':
      // The rules of a ring stay such that it comes to itself.
      if (world.rules.length > 1) return
      tally.ruleEdits++
      return world.editRule(0, s.settings)
    default:
      return edit(world, s)
  }
}

/** One random history; throws where what must hold does not at its end. */
export function live(steps: Step[], of: Partial<RuleSettings>, where: WorldOptions, bug: Bug | null): void {
  const world = new World(where.rules ? {} : of, bug, where)
  tally.histories++
  if (world.rules.length > 1) tally.rings++
  const seed = (name: 'a' | 'b', summary: string, local: string): void => {
    if (world.services[name].can.kind === 'task') world.addTask(summary, local, name)
    else world.addEvent(summary, local, 30, ZONE, name)
  }
  seed('a', 'Water ledger', HOURS[0] ?? '')
  if (world.services.a.can.kind === 'task') {
    world.addTask('Label night beds', '2026-11-26')
    world.addTask('Air the glasshouse', HOURS[2] ?? '', 'a', true)
  }
  seed('b', 'Seed swap', HOURS[1] ?? '')
  world.pass()
  world.pass()
  steps.forEach((s, i) => {
    world.now += i % 7 === 6 ? 60_000 : i % 3 === 0 ? 5000 : 500
    act(world, s, i)
  })
  reopen(world)
  // What was under way is through after two rounds, what was looked for is found, and somebody says what of the rest.
  world.pass()
  world.now += 60_000
  world.pass()
  tally.asked += world.intents.filter(i => i.by === 'rule' && i.asks).length
  say(world, 'leave')
  world.pass()
  world.pass()
  const quietFrom = world.now
  rest(world)
  nothingFlaps(world, quietFrom)
  expect(world.pass(), 'a further pass writes nothing').to.equal(0)
  expect(world.intents, 'nothing waits').to.have.length(0)
  tally.conflicts += conflicts(world).length + world.overridden.filter(o => o.because !== 'one-way').length
  tally.toAndFro += world.toAndFro.size
  tally.refusedHere += world.own.refused
  tally.writes += world.journal.length
  tally.advances += [...world.ties.values()].filter(t => t.released === 'advanced').length
  mustHold(world)
}
