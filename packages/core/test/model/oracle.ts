import { expect } from 'chai'
import {
  dayOf,
  epochOf,
  type Event,
  type Field,
  type Item,
  type Rule,
  type RuleSettings,
  type Task,
  type Tie,
} from '../../src/index.ts'
import { bare, LABELS, marked, shown } from './titles.ts'
import { PRIVATE } from './steps.ts'
import type { Deed } from './service.ts'
import { type Name, type World, ZONE } from './world.ts'

/**
 * What must hold when edits and faults have ended, said without the product's own mapping: the
 * oracle has its own small idea of what a title, a mark and a time are.
 */
const fit = (title: string, max: number | null): string =>
  max === null
    ? title
    : Array.from(title.replace(/\s*[\r\n]+\s*/g, ' ').trim() || 'Untitled')
        .slice(0, max)
        .join('')
        .trim()

const done = (item: Item): boolean =>
  item.kind === 'task' ? item.status === 'completed' : marked(item.summary)

type Way = RuleSettings['fields']['title']
const agreeing = (way: Way): boolean => way === 'both' || way === 'a-to-b' || way === 'b-to-a'

/** Null where the two titles say the same, with the words of a rule round that of b; else what is wrong. */
function apartInTitle(
  a: Item,
  b: Item,
  template: string,
  max: { a: number | null; b: number | null },
): string | null {
  const [before = '', after = ''] = template.split('{title}')
  const room = max.b === null ? null : max.b - before.length - after.length
  const there = shown(b)
  const framed = there.startsWith(before) && there.endsWith(after)
  // A title that somebody gave it there stands without the rule’s words until the other side changes.
  if (!framed && fit(there, max.a ?? 9999) === fit(shown(a), max.a ?? 9999)) return null
  if (!framed) return `“${there}” has the rule’s words “${template}”`
  const inner = there.slice(before.length, there.length - after.length)
  const same =
    fit(inner, max.a) === fit(shown(a), max.a) ||
    fit(bare(shown(a)), room) === fit(inner, room) ||
    bare(shown(a)) === inner ||
    fit(bare(shown(a)), 9999) === fit(inner, 9999)
  const cut = max.a !== null && Array.from(inner).length >= max.a
  const cutThere = room !== null && Array.from(shown(a)).length >= room
  return same || cut || cutThere ? null : `title “${shown(a)}” and “${there}”`
}

/** Where titles come from b, nothing is written there: they keep the words of earlier versions of the rule. */
function templatesOf(world: World, rule: Rule): string[] {
  const earlier = world.versions.get(rule.id)?.map(v => v.settings.title) ?? []
  return rule.settings.fields.title === 'b-to-a' ? [rule.settings.title, ...earlier] : [rule.settings.title]
}

/** The day on which it begins, where the rules are kept. */
function dayInZone(item: Item): string | null {
  const when = item.kind === 'task' ? item.start : item.time.anchor
  return when && dayOf(when, ZONE)
}

/** `coarse`: one of the two services knows days only. */
function agreeOnTime(a: Item, b: Item, settings: RuleSettings, coarse: boolean): void {
  if (coarse) {
    expect(dayInZone(b), 'day').to.equal(dayInZone(a))
    return
  }
  const day = (i: Event): string =>
    i.time.anchor.kind === 'date' ? i.time.anchor.date : i.time.anchor.local.slice(0, 10)
  if (a.kind === 'task' && b.kind === 'event') {
    if (a.start?.kind === 'zoned')
      expect(epochOf(b.time.anchor, ZONE), 'start').to.equal(epochOf(a.start, ZONE))
    else if (settings.noHour === 'hour' && b.time.anchor.kind !== 'date')
      expect(day(b), 'day').to.equal(a.start?.kind === 'date' && a.start.date)
    else expect(b.time.anchor, 'date').to.deep.equal(a.start)
  } else if (a.kind === 'event' && b.kind === 'event') expect(b.time, 'time').to.deep.equal(a.time)
  else expect((b as Task).start, 'plan').to.deep.equal((a as Task).start)
}

/** Which tie and field wait for a person, or were put back by hand. */
function exempt(world: World): Set<string> {
  const out = new Set<string>()
  for (const rule of world.rules)
    for (const d of world.plan(rule))
      for (const h of d.held) out.add(`${d.tie?.id} ${h.field}`).add(`${d.tie?.id} waits`)
  for (const t of world.activeTies())
    for (const f of Object.keys(t.memory.apart ?? {})) out.add(`${t.id} ${f}`)
  return out
}

export function mustHold(world: World): void {
  expect(world.lost, 'nothing was replaced that the journal does not name').to.deep.equal([])
  const free = exempt(world)
  for (const rule of world.rules) {
    const ties = world.activeTies().filter(t => t.rule === rule.id)
    for (const side of ['a', 'b'] as const) {
      const ids = ties.map(t => t[side])
      expect(new Set(ids).size, `one tie for one item on ${side}`).to.equal(ids.length)
    }
    const { settings } = rule
    const max = { a: rule.terms.a.summaryMaxLength, b: rule.terms.b.summaryMaxLength }
    for (const tie of ties) {
      const [a, b] = [world.standing(tie.a)?.item, world.standing(tie.b)?.item]
      expect(a && b, `tie ${tie.id} holds two items`).to.not.equal(undefined)
      if (!a || !b) continue
      const due = (f: Field): boolean =>
        agreeing(settings.fields[f]) && !free.has(`${tie.id} ${f}`) && !hasNothingToSay(world, rule, tie, f)
      const apart = templatesOf(world, rule).map(template => apartInTitle(a, b, template, max))
      if (due('title') && !apart.includes(null)) expect.fail(apart[0] ?? '')
      const plans = (['a', 'b'] as const).every(side => rule.terms[side].canHold.start)
      // An event stays while an edit of it waits for an answer, though its task has no hour, or is done.
      const waits = free.has(`${tie.id} waits`)
      const staysFor = waits && a.kind === 'task' && b.kind === 'event' && a.start?.kind !== 'zoned'
      const coarse = [tie.a, tie.b].some(id => world.serviceOf(id ?? '').can.daysOnly)
      if (due('time') && plans && !staysFor) agreeOnTime(a, b, settings, coarse)
      if (due('priority')) expect(b.priority, 'priority').to.equal(a.priority)
      if (due('categories'))
        expect([...b.categories].sort(), 'categories').to.deep.equal([...a.categories].sort())
      // One of the two may trim it.
      if (due('notes')) expect(b.description.trim(), 'notes').to.equal(a.description.trim())
      if (
        due('completion') &&
        (rule.kinds.a === rule.kinds.b || settings.completed === 'mark') &&
        a.kind === 'task'
      )
        expect(done(b), `completion of “${a.summary}”`).to.equal(done(a))
      if (
        due('completion') &&
        !waits &&
        settings.completed === 'remove' &&
        !settings.neverLoses.b &&
        a.kind === 'task' &&
        b.kind === 'event'
      )
        expect(done(a), 'a done task has no event').to.equal(false)
    }
    everyOpenTaskHasItsEvent(world, rule.id)
    roundsAreTold(world, rule.id)
  }
  oneOfEachInAGroup(world)
  // Nothing we made stands there without being somebody's counterpart.
  const sides = [...world.ties.values()].flatMap(t => [t.a, t.b]).filter(id => id !== null)
  const known = new Set(sides.map(id => workOf(world, world.nameOf(id), world.origins.get(id) ?? '')))
  for (const { name, origin } of world.made) {
    const there = world.services[name].byOrigin(origin)
    if (there && !world.leftAlone.has(there.item.uid))
      expect(known.has(workOf(world, name, origin)), `${name} ${origin} is a double`).to.equal(true)
  }
  whatStoodIsNotNew(world)
  journalIsTrue(world)
  editsStand(world)
  nothingEditedIsRemoved(world)
  onlyWhatIsGoneEnds(world)
  leftAloneStays(world)
  notesAreSomebodys(world)
}

/** Nothing is made for what stood there before the rule, or was an invitation. */
function whatStoodIsNotNew(world: World): void {
  // Between two lists of a side, or on the way round a ring, it arrives as something new.
  if (world.rules.length > 1 || world.services.b.can.wide || world.rule.settings.made.b !== 'new') return
  const made = new Set(world.made.map(m => `${m.name} ${m.origin}`))
  for (const { a, b } of world.ties.values())
    if (a && b && world.stood.has(world.origins.get(b) ?? ''))
      expect(
        made.has(`a ${world.origins.get(a)}`),
        `made for ${world.origins.get(b)}, which is not new`,
      ).to.equal(false)
}

/** What people say of an item, in words that both sides share. */
const SAID: { field: Field; of: (item: Item) => unknown }[] = [
  { field: 'completion', of: done },
  { field: 'priority', of: item => item.priority },
  ...LABELS.map(l => ({ field: 'categories' as const, of: (i: Item): unknown => i.categories.includes(l) })),
]

/**
 * What stands in the end is what somebody said last, on one side or the other: no write of ours takes back what a
 * person said unless another one said otherwise. Of what was said before everything had come to rest, only the last
 * counts.
 */
function editsStand(world: World): void {
  if (world.rules.length > 1 || Object.values(world.services).some(s => s.can.robot !== 'none')) return
  const { rule } = world
  if ((world.versions.get(rule.id)?.length ?? 0) > 1) return
  const free = exempt(world)
  for (const tie of world.activeTies()) {
    const sides = (['a', 'b'] as const).map(side => ({
      side,
      now: world.standing(tie[side])?.item,
      id: tie[side],
    }))
    if (sides.some(s => s.now?.kind === 'task' && s.now.recurring)) continue
    // What came of a write that nobody answered cannot always be told from an edit.
    if (world.journal.some(j => !j.sure && sides.some(s => s.id === j.mirror))) continue
    for (const { field, of } of SAID) {
      // Between two calendars, a mark is some words of a title.
      if (field === 'completion' && rule.kinds.a === 'event') continue
      if (rule.settings.fields[field] !== 'both' || free.has(`${tie.id} ${field}`)) continue
      if (field === 'completion' && rule.kinds.a !== rule.kinds.b && rule.settings.completed !== 'mark')
        continue
      // What was taken back is held apart as a whole: an edit of one label brings all of them together again.
      if (field === 'categories' && world.tookBack) continue
      const carried = sides.flatMap(({ id }) =>
        world.services[world.nameOf(id ?? '')].deeds.flatMap(d =>
          d.by === 'us' &&
          d.origin === world.origins.get(id ?? '') &&
          d.before &&
          d.after &&
          of(d.before) !== of(d.after)
            ? [d.at]
            : [],
        ),
      )
      const said = sides.flatMap(({ id, side }) => {
        const service = world.services[world.nameOf(id ?? '')]
        const origin = world.origins.get(id ?? '')
        // A copy that took the place of what it was made of says what that was like then.
        const original = service.copyOf.get(origin ?? '')
        const tookPlace = original !== undefined && id === `${world.nameOf(id ?? '')}:${original}`
        const origins = tookPlace ? [original, origin] : [origin]
        const all = service.deeds.filter(
          d =>
            (d.by === 'them' || d.asked) &&
            !d.restored &&
            origins.includes(d.origin) &&
            d.at >= tie.at &&
            d.after !== null &&
            (d.before === null ? service.copyOf.has(d.origin) : of(d.before) !== of(d.after)),
        )
        const last = all.at(-1)
        if (!last?.after) return []
        // Said and taken back before anything of it was carried over: that may have been seen, or not.
        const since = Math.max(...carried.filter(at => at < last.at))
        const lately = all.find(d => d.at >= since)
        const isNet = !lately?.before || of(lately.before) !== of(last.after)
        // What a late listing, or a closed service, did not show before the original was gone, nobody has seen.
        const isHidden = tookPlace && (service.can.listing === 'late' || service.wasClosed)
        const own = all.findLast(d => d.origin === origin) ?? last
        return [last, ...(isHidden ? [own] : [])].map(d => ({
          side,
          at: d.at,
          value: d.after && of(d.after),
          isFirm: isNet && !isHidden,
        }))
      })
      const latest = Math.max(...said.filter(s => s.isFirm).map(s => s.at))
      const counts = said.filter(
        s => !s.isFirm || s.at === latest || !world.quiet.some(q => q > s.at && q < latest),
      )
      if (!said.some(s => s.isFirm)) continue
      for (const { side, now } of sides)
        expect(
          counts.map(c => c.value),
          `${field} of ${side} of ${tie.id}: what somebody said`,
        ).to.include(now && of(now))
    }
  }
}

const changes = ({ before, after }: Deed, prop: keyof Item): boolean =>
  JSON.stringify(before?.[prop]) !== JSON.stringify(after?.[prop])

/**
 * Labels that people added and took away again, whatever of ours came to them in between: a write to one side brings
 * the labels of the other, and what was taken back before it reached that side is no edit.
 */
function comesToNothing(
  said: readonly Deed[],
  carried: readonly ('description' | 'priority' | 'categories')[],
): boolean {
  const net = new Map<string, number>()
  const count = (labels: readonly string[] | undefined, by: 1 | -1): void => {
    for (const label of labels ?? []) net.set(label, (net.get(label) ?? 0) + by)
  }
  for (const deed of said) {
    const others = carried.filter(p => p !== 'categories')
    if (others.some(p => changes(deed, p))) return false
    count(deed.before?.categories, -1)
    count(deed.after?.categories, 1)
  }
  return [...net.values()].every(n => n === 0)
}

/**
 * What we delete, nobody had edited since everything came to rest, in a field that the rule carries: or the edit went over
 * first. Where the rule says which side is right, a deletion there may be.
 */
function nothingEditedIsRemoved(world: World): void {
  const { rule } = world
  const plain = Object.values(world.services).every(s => s.can.robot === 'none' && s.can.preconditions)
  if (world.rules.length > 1 || !plain || (world.versions.get(rule.id)?.length ?? 0) > 1) return
  if (rule.settings.conflict === 'a' || rule.settings.conflict === 'b') return
  const { fields } = rule.settings
  const carried = (['description', 'priority', 'categories'] as const).filter(
    prop =>
      fields[({ description: 'notes', priority: 'priority', categories: 'categories' } as const)[prop]] ===
      'both',
  )
  for (const name of [rule.home.a, rule.home.b] as Name[])
    for (const [n, gone] of world.services[name].deeds.entries()) {
      if (gone.by !== 'us' || gone.op !== 'delete') continue
      const edit = world.services[name].deeds
        .slice(0, n)
        .findLast(d => d.origin === gone.origin && d.before && d.after && carried.some(p => changes(d, p)))
      if (!edit || edit.restored || (edit.by === 'us' && !edit.asked)) continue
      if (world.quiet.some(q => q > edit.at && q < gone.at)) continue
      // What was edited and taken back since we last wrote it is as if nobody had edited it.
      const since = world.services[name].deeds
        .slice(0, n)
        .findLastIndex(d => d.origin === gone.origin && d.by === 'us')
      const first = world.services[name].deeds
        .slice(since + 1)
        .find(d => d.origin === gone.origin && d.before)
      if (first && carried.every(p => JSON.stringify(first.before?.[p]) === JSON.stringify(edit.after?.[p])))
        continue
      const calm = Math.max(0, ...world.quiet.filter(q => q <= edit.at))
      const said = world.services[name].deeds
        .slice(0, n)
        .filter(d => d.origin === gone.origin && d.at > calm && (d.by === 'them' || d.asked))
      if (comesToNothing(said, carried)) continue
      const [own, far] = name === rule.home.a ? (['a', 'b'] as const) : (['b', 'a'] as const)
      const ties = [...world.ties.values()].filter(t => originOf(world, t[own]) === `${name} ${gone.origin}`)
      const partners = new Set(ties.map(t => world.origins.get(t[far] ?? '')))
      // A listing that is late may show for a while what somebody has deleted.
      const isKnown = ties.some(t => t.released === `${far}-deleted`)
      // Where both sides were edited and both are there, the edit may have lost: which one counts is tried elsewhere.
      const there = world.services[rule.home[far] as Name].deeds.filter(
        d => partners.has(d.origin) && d.by === 'them' && d.at > calm && d.at <= gone.at,
      )
      const isClash =
        !(isKnown && there.some(d => d.op === 'delete' && d.at < gone.at)) &&
        carried.some(p => changes(edit, p) && there.some(d => changes(d, p)))
      if (isClash) continue
      const went = world.services[rule.home[far] as Name].deeds.some(
        d => d.by === 'us' && d.op === 'put' && partners.has(d.origin) && d.at >= edit.at && d.at <= gone.at,
      )
      expect(went, `${gone.origin} was edited, and deleted by us`).to.equal(true)
    }
}

/** A pair ends for a deletion only where somebody, or a rule, deleted that side: not for a move, or a closed door. */
function onlyWhatIsGoneEnds(world: World): void {
  for (const t of world.ties.values()) {
    const side = /^([ab])-(deleted|again)$/.exec(t.released ?? '')?.[1] as 'a' | 'b' | undefined
    const id = side && t[side]
    if (!id) continue
    const name = world.nameOf(id)
    // Of a copy that was moved and an original that was deleted before anybody looked, either may be the one that went.
    const work = workOf(world, name, world.origins.get(id) ?? '')
    const deleted = world.services[name].deeds.some(
      d => d.op === 'delete' && workOf(world, name, d.origin) === work,
    )
    expect(deleted, `${id} ended, and nobody deleted it`).to.equal(true)
  }
}

/** What is left alone stays so until its task has another date; where two lists have no date in common, for good. */
function leftAloneStays(world: World): void {
  for (const rule of world.rules) {
    if (rule.kinds.b !== 'task' || rule.terms.b.canHold.start) continue
    const ties = [...world.ties.values()].filter(t => t.rule === rule.id)
    for (const t of ties) {
      const gone = /^([ab])-deleted$/.exec(t.released ?? '')?.[1]
      const left = gone && t[gone === 'a' ? 'b' : 'a']
      const again = ties.find(u => left && u.count > t.count && (u.a === left || u.b === left))
      expect(again, `${left} was left alone and has another counterpart`).to.equal(undefined)
    }
  }
}

/** What rules write into notes, somebody wrote: nothing a service made of it comes back as if it had been edited. */
function notesAreSomebodys(world: World): void {
  // After a lost answer, what a service made of a write cannot be told from an edit; in a ring it goes on; and
  // a field that is to go one way from now on begins with what its source says; and where a round ends in the
  // moment of a write, what the service shows is of the next one.
  const edited = [...world.versions.values()].some(v => v.length > 1)
  const advanced = [...world.ties.values()].some(t => t.released === 'advanced')
  if (world.tookBack || world.faulty || edited || advanced || world.rules.length > 1) return
  const written = new Set([''])
  for (const { deeds } of Object.values(world.services))
    for (const d of deeds) if (d.by === 'them' && d.after) written.add(d.after.description)
  for (const j of world.journal)
    if (j.rule === '')
      for (const f of j.fields)
        if (f.field === 'notes') written.add(String(f.after)).add(String(f.after).trim())
  // What is made again out of its counterpart has what is left of it there.
  const trimmed = new Set([...written].map(w => w.trim()))
  for (const j of world.journal)
    for (const f of j.rule === '' || j.op === 'delete' ? [] : j.fields)
      if (f.field === 'notes') {
        const known = (j.op === 'create' ? trimmed : written).has(String(f.after))
        expect(known || written.has(String(f.after)), `nobody wrote “${String(f.after)}”`).to.equal(true)
      }
}

/** Of what was copied and moved or removed before anybody looked, the pair may follow either: both are one work. */
function workOf(world: World, name: Name, origin: string): string {
  const from = world.services[name].copyOf.get(origin)
  return from === undefined ? `${name} ${origin}` : workOf(world, name, from)
}

const originOf = (world: World, id: string | null): string | null =>
  id && `${world.nameOf(id)} ${world.origins.get(id)}`

/** Following ties all the way round, the same work is in a collection once. */
function oneOfEachInAGroup(world: World): void {
  const group = new Map<string, Set<string>>()
  for (const { a, b } of world.activeTies()) {
    if (!a || !b) continue
    const one = new Set([a, b, ...(group.get(a) ?? []), ...(group.get(b) ?? [])])
    for (const id of one) group.set(id, one)
  }
  for (const one of new Set(group.values())) {
    const places = [...one].map(id => id[0])
    expect(new Set(places).size, `one of each: ${[...one].join(', ')}`).to.equal(places.length)
  }
}

/**
 * What stood for a round that is over stays where it was and says that it is done; the next round has a counterpart
 * of its own. (Nobody here moves anything by just a week, other than back to where it stood.)
 */
function roundsAreTold(world: World, id: string): void {
  const rule = world.rules.find(r => r.id === id)
  if (!rule) return
  const WEEK = 7 * 86_400_000
  const startOf = (i: Item | null): number | null => {
    const when = i?.kind === 'event' ? i.time.anchor : i?.start
    return when ? epochOf(when, ZONE) : null
  }
  for (const service of world.tookBack ? [] : Object.values(world.services))
    for (const [n, { by, before, after, origin }] of service.deeds.entries()) {
      const [from, to] = [startOf(before), startOf(after)]
      if (by !== 'us' || from === null || to === null || (after?.kind === 'task' && after.recurring)) continue
      if (service.deeds.slice(0, n).some(d => d.origin === origin && startOf(d.before) === to)) continue
      expect(to - from, `“${after?.summary}” was taken along to the next round`).to.not.equal(WEEK)
    }
  const ties = [...world.ties.values()].filter(t => t.rule === id).sort((x, y) => x.count - y.count)
  const home = rule.home.a as Name
  for (const { item, list, origin } of world.services[home].items.values()) {
    if (item.kind !== 'task' || !item.recurring || item.start?.kind !== 'zoned' || list !== 'main') continue
    if (item.status !== 'needs-action' && item.status !== 'in-process') continue
    if (isKeptOut(rule, item)) continue
    const last = ties.findLast(t => originOf(world, t.a) === `${home} ${origin}`)
    if (last?.released === 'advanced') expect.fail(`“${item.summary}” has nothing for its present round`)
  }
}

/**
 * Where a field comes from a side on which a rule made the item, that side has nothing to say of it until somebody
 * does: nothing is taken away for it.
 */
function hasNothingToSay(world: World, rule: Rule, tie: Tie, field: Field): boolean {
  const source = { 'a-to-b': tie.a, 'b-to-a': tie.b, both: null, once: null, off: null }[
    rule.settings.fields[field]
  ]
  const item = world.standing(source)?.item
  if (source === null || !item) return false
  // Or it is a copy of that which took its place, under its uid.
  const made =
    isOurs(item) ||
    world.made.some(m => m.name === world.nameOf(source) && m.origin === world.origins.get(source))
  const nothing: Partial<Record<Field, boolean>> = {
    notes: item.description.trim() === '',
    completion: !done(item),
    priority: item.priority === 0,
    categories: item.categories.length === 0,
  }
  return made && nothing[field] === true
}

/** The uid says that a rule made it, or what it is a copy of. */
const isOurs = ({ uid }: Item): boolean => uid.startsWith('loom-')

const isKeptOut = ({ settings: { filter } }: Rule, { summary, description }: Item): boolean =>
  [filter.a, filter.b].flat().length > 0 && `${summary} ${description}`.toLowerCase().includes(PRIVATE)

function everyOpenTaskHasItsEvent(world: World, id: string): void {
  const rule = world.rules.find(r => r.id === id)
  if (!rule || rule.kinds.a !== 'task' || rule.kinds.b !== 'event' || rule.settings.made.a !== 'all') return
  const ties = [...world.ties.values()].filter(t => t.rule === id)
  const had = (t: (typeof ties)[number]): string | null => originOf(world, t.a)
  const ever = new Set(ties.filter(t => t.released).map(had))
  const now = new Set(ties.filter(t => !t.released && t.b).map(had))
  // A copy, under its uid, of what was made here and is over: made for what already had its counterpart.
  const over = new Set(ties.flatMap(t => (t.released && t.a ? (world.mirrors.get(t.a)?.item.uid ?? []) : [])))
  const home = rule.home.a as Name
  for (const { item, list, origin } of world.services[home].items.values()) {
    const key = `${home} ${origin}`
    if (item.kind !== 'task' || item.start?.kind !== 'zoned' || list !== 'main' || ever.has(key)) continue
    if (item.status !== 'needs-action' && item.status !== 'in-process') continue
    if (isKeptOut(rule, item) || (isOurs(item) && over.has(item.uid))) continue
    expect(now.has(key), `“${item.summary}” has its event`).to.equal(true)
  }
}

/**
 * While nobody edits, what stands in one place of an item is changed once at most; in a ring, where the same was edited
 * in several places at once, by each rule once at most.
 */
export function nothingFlaps(world: World, since: number): void {
  for (const service of Object.values(world.services)) {
    if (service.can.robot !== 'none') continue
    const changes = new Map<string, number>()
    for (const { by, at, origin, before, after } of service.deeds) {
      if (by !== 'us' || at <= since || !before || !after) continue
      for (const prop of ['summary', 'status', ...Object.keys(PROPS)]) {
        const of = (i: Item): string => JSON.stringify((i as unknown as Record<string, unknown>)[prop])
        if (of(before) === of(after)) continue
        const n = (changes.get(`${origin} ${prop}`) ?? 0) + 1
        expect(n, `changes of ${prop} of ${origin}`).to.be.at.most(world.rules.length)
        changes.set(`${origin} ${prop}`, n)
      }
    }
  }
}

const PROPS: Record<string, Field> = {
  description: 'notes',
  time: 'time',
  start: 'time',
  priority: 'priority',
  categories: 'categories',
  location: 'location',
}

/** What our writes changed at a service, the journal names. */
function journalIsTrue(world: World): void {
  for (const [name, service] of Object.entries(world.services))
    for (const deed of service.deeds) {
      if (deed.by !== 'us' || deed.op !== 'put' || !deed.before || !deed.after) continue
      const named = new Set(
        world.journal
          .filter(j => {
            const at = world.nameOf(j.mirror)
            return (
              workOf(world, at, world.origins.get(j.mirror) ?? '') ===
              workOf(world, name as Name, deed.origin)
            )
          })
          .flatMap(j => j.fields.map(f => f.field as string)),
      )
      // Where a round ends, its service moves the date by itself.
      const round = (i: Item): string | null => (i.kind === 'task' ? i.occurrence : null)
      const turned = round(deed.before) !== round(deed.after)
      for (const [prop, field] of Object.entries(PROPS)) {
        if (turned && field === 'time') continue
        const of = (i: Item): string => JSON.stringify((i as unknown as Record<string, unknown>)[prop])
        if (of(deed.before) !== of(deed.after))
          expect(named.has(field), `the journal names ${field} of ${deed.origin}`).to.equal(true)
      }
    }
}
