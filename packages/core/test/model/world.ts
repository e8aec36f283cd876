import {
  alreadyShows,
  type Answer,
  type BothSides,
  confirmWrite,
  type Decision,
  defaultSettings,
  isOver,
  type Event,
  type Field,
  type FieldChange,
  type Item,
  type ItemPatch,
  lensesOf,
  type Mirror,
  newEvent,
  newTask,
  observe,
  otherSide,
  plainTerms,
  plan,
  type PlanInput,
  type PlannedWrite,
  type Rule,
  type RuleSettings,
  sameRaw,
  type Side,
  type Task,
  type Tie,
  undoOf,
  zoned,
} from '../../src/index.ts'
import { type Bug, bothWays, spoilt } from './bugs.ts'
import { type Capabilities, type Kept, plainService, Service } from './service.ts'

/** Services in memory and rules between them, with the faults that real ones have. */

export type Fault = 'none' | 'answer-lost' | 'never-arrived' | 'late-effect' | 'edited-after' | 'crash'

interface Intent {
  rule: string
  write: PlannedWrite
  /** Fixed before the first try; null where the service chooses. */
  id: string | null
  tried: boolean
}
interface Written {
  rule: string
  tie: string
  side: Side
  op: PlannedWrite['op']
  fields: FieldChange[]
  mirror: string
}

export const ZONE = 'Europe/Dublin'
type Name = 'a' | 'b' | 'c'

export interface WorldOptions {
  services?: Partial<Record<Name, Capabilities>>
  rules?: { id: string; a: Name; b: Name; settings?: Partial<RuleSettings> }[]
}

export class World {
  now = Date.parse('2026-11-24T09:00:00Z')
  readonly services: Record<Name, Service>
  readonly mirrors = new Map<string, Mirror>()
  readonly ties = new Map<string, Tie & { rule: string; version: number; count: number }>()
  intents: Intent[] = []
  readonly overridden: { field: Field; value: unknown; tie: string; because: string }[] = []
  readonly journal: Written[] = []
  readonly made: string[] = []
  /** Conflicts as they stood when somebody answered. */
  private readonly given: { tie: string; field: Field; now: BothSides }[] = []
  readonly answers = new Map<string, Partial<Record<Field, Answer>>>()
  readonly rules: Rule[]
  /** Every version that a rule ever had. */
  readonly versions = new Map<string, Rule[]>()
  /** Whether anything was put back: moved to an earlier round's date and back again, an item goes by a week. */
  tookBack = false
  /** Values that a write of ours replaced without the journal naming them. */
  readonly lost: string[] = []
  /** What takes effect only after the caller has given up. */
  private late: (() => void)[] = []
  private looked: Record<string, number> = { a: 0, b: 0, c: 0 }
  private wroteAt: Record<string, number> = { a: 0, b: 0, c: 0 }
  private counter = 0

  constructor(
    settings: Partial<RuleSettings> = {},
    private readonly bug: Bug | null = null,
    options: WorldOptions = {},
  ) {
    const clock = (): number => this.now
    const can = {
      a: plainService('task'),
      b: plainService('event'),
      c: plainService('task'),
      ...options.services,
    }
    this.services = {
      a: new Service(can.a, clock),
      b: new Service(can.b, clock),
      c: new Service(can.c, clock),
    }
    this.rules = (options.rules ?? [{ id: 'r', a: 'a', b: 'b' }]).map(r =>
      this.ruleFor(r.id, r.a, r.b, { ...settings, ...r.settings }),
    )
    for (const r of this.rules) this.versions.set(r.id, [r])
  }

  get rule(): Rule {
    return this.rules[0] as Rule
  }
  get tasks(): Service {
    return this.services.a
  }
  get events(): Service {
    return this.services.b
  }

  private ruleFor(id: string, a: Name, b: Name, settings: Partial<RuleSettings>): Rule {
    const terms = (name: Name) => {
      const { kind, titleMax, minutesOnly } = this.services[name].can
      return {
        ...plainTerms,
        zone: kind === 'task' ? ZONE : null,
        summaryMaxLength: titleMax,
        precision: minutesOnly ? ('minute' as const) : ('second' as const),
      }
    }
    return {
      id,
      kinds: { a: this.services[a].can.kind, b: this.services[b].can.kind },
      home: { a, b },
      collections: { a: [a], b: [b] },
      settings: { ...defaultSettings, ...settings },
      terms: { a: terms(a), b: terms(b) },
      zone: ZONE,
      enabledAt: this.now,
    }
  }

  fresh(prefix: string): string {
    return `${prefix}${++this.counter}`
  }
  serviceOf(mirrorId: string): Service {
    return this.services[mirrorId[0] as Name]
  }

  /** The rule is written anew; ties keep what they agreed on under the old words. */
  editRule(index: number, settings: Partial<RuleSettings>): void {
    const old = this.rules[index]
    if (!old) return
    const next = { ...old, settings: { ...old.settings, ...settings } }
    this.rules[index] = next
    this.versions.get(old.id)?.push(next)
    if (this.bug === 'makes its ties anew when the rule is edited') {
      for (const [id, t] of this.ties) if (t.rule === old.id) this.ties.delete(id)
      this.made.length = 0
    }
  }

  // --- observing ---------------------------------------------------------------------------------

  observeAll(): void {
    for (const act of this.late.splice(0)) act()
    for (const [name, service] of Object.entries(this.services) as [Name, Service][]) {
      const listing = service.list()
      const trusts = this.bug === 'trusts a listing that leaves something out'
      const echo =
        this.bug === 'takes changes soon after its own write for an echo' &&
        this.now - (this.wroteAt[name] ?? 0) < 3000
      for (const [id, kept] of listing) this.see(name, id, kept, echo)
      for (const [key, m] of this.mirrors) {
        if (m.collectionId !== name || listing.has(m.remoteId) || m.presence === 'gone') continue
        // Absence is not deletion: it is asked for by id.
        const there = service.items.get(m.remoteId)
        if (there && !trusts) this.see(name, m.remoteId, there, false)
        else this.mirrors.set(key, { ...m, presence: 'gone' })
      }
      this.looked[name] = this.now
    }
  }

  private see(name: Name, id: string, kept: Kept, echo: boolean): void {
    const key = `${name}:${id}`
    const before = this.mirrors.get(key) ?? null
    // A late listing may be older than what a write has shown since.
    if (before && before.presence === 'present' && Number(before.revision) >= kept.revision) return
    const { skew } = this.services[name].can
    const believed = this.bug === 'believes the clock of the service' ? 0 : skew
    const looked = { before: this.looked[name] ?? 0, now: this.now, skew: believed }
    const seen = { remoteId: id, collectionId: name, revision: String(kept.revision), item: kept.item }
    const result = observe(before, seen, looked, key)
    if (result.kind === 'same') return
    this.mirrors.set(key, echo && before ? { ...before, revision: result.mirror.revision } : result.mirror)
  }

  // --- planning ----------------------------------------------------------------------------------

  inputFor(rule: Rule): PlanInput {
    const { bug } = this
    const active = [...this.ties.values()].filter(t => t.rule === rule.id && !t.released)
    const held = new Set(active.flatMap(t => [t.a, t.b]))
    const free = (side: Side): Mirror[] =>
      [...this.mirrors.values()].filter(
        m => m.collectionId === rule.home[side] && m.presence === 'present' && !held.has(m.id),
      )
    const released = new Map<string, Tie>()
    if (bug !== 'forgets that a pair has ended')
      for (const t of this.ties.values())
        if (t.rule === rule.id && t.released) for (const id of [t.a, t.b]) if (id) released.set(id, t)
    const untied = { a: free('a'), b: free('b') }
    const busy = new Set<string>(
      bug === 'plans what is under way once more'
        ? []
        : this.intents.flatMap(i => {
            // A write is under way for both sides of its tie: rules that meet take turns.
            const tie = this.ties.get(i.write.tieId)
            return [tie?.a, tie?.b, 'mirrorId' in i.write ? i.write.mirrorId : null].filter(
              id => typeof id === 'string',
            )
          }),
    )
    return {
      rule,
      pairs: active.map(tie => {
        const was = this.versions.get(rule.id)?.[tie.version]
        const base =
          bug === 'compares the two sides with each other, not with what they agreed on' ? {} : tie.base
        return {
          tie: { ...tie, base },
          a: this.seenAs(tie.a),
          b: this.seenAs(tie.b),
          ...(was && was !== rule && { was }),
        }
      }),
      untied,
      released,
      ...this.kinOf(rule, untied, busy),
      answers: this.answers,
      busy,
      pendingUids: new Set(
        bug === 'forgets what it is making' || bug === 'plans what is under way once more'
          ? []
          : this.intents.flatMap(i => (i.write.op === 'create' ? [i.write.item.uid] : [])),
      ),
      now: this.now,
      idFor: key => key,
    }
  }

  /** With the bug, that a task repeats is overlooked. */
  private seenAs(id: string | null): Mirror | null {
    const m = this.mirrors.get(id ?? '') ?? null
    if (this.bug !== 'takes a round that is over for a date that was moved') return m
    return m && { ...m, item: { ...m.item, recurring: false } }
  }

  private kinOf(
    rule: Rule,
    untied: Record<Side, Mirror[]>,
    busy: Set<string>,
  ): Required<Pick<PlanInput, 'kin' | 'elsewhere'>> {
    const kin = new Map<string, Mirror>()
    const elsewhere = new Set<string>()
    if (this.rules.length < 2) return { kin, elsewhere }
    const ties = [...this.ties.values()].filter(t => !t.released && t.rule !== rule.id && t.a && t.b)
    const mine = new Set(
      [...this.ties.values()].filter(t => !t.released && t.rule === rule.id).flatMap(t => [t.a, t.b]),
    )
    for (const side of ['a', 'b'] as const)
      for (const m of untied[side]) {
        const group = new Set([m.id])
        for (let grown = true; grown;) {
          grown = false
          for (const t of ties)
            if (group.has(t.a ?? '') !== group.has(t.b ?? '')) {
              group.add(t.a ?? '').add(t.b ?? '')
              grown = true
            }
        }
        if (group.size > 1) elsewhere.add(m.id)
        // Something is being made for the same work: whether it is to be had here shows when it is there.
        const ending = [...this.ties.values()].some(
          t =>
            !t.released &&
            (group.has(t.a ?? '') || group.has(t.b ?? '')) &&
            [t.a, t.b].some(id => {
              const one = this.mirrors.get(id ?? '')
              return one?.presence === 'gone' || (one !== undefined && isOver(t, one.item))
            }),
        )
        if (
          ([...group].some(id => busy.has(id)) || ending) &&
          this.bug !== 'does not follow ties round a ring'
        )
          busy.add(m.id)
        if (this.bug === 'does not follow ties round a ring') continue
        const found = [...group]
          .map(id => this.mirrors.get(id))
          .find(
            o =>
              o &&
              o.id !== m.id &&
              o.presence === 'present' &&
              o.collectionId === rule.home[otherSide(side)] &&
              !mine.has(o.id),
          )
        if (found) kin.set(m.id, found)
      }
    return { kin, elsewhere }
  }

  plan(rule: Rule = this.rule): Decision[] {
    const input = this.inputFor(rule)
    const decisions = plan(
      this.bug === 'reads a one-way field both ways' ? { ...input, rule: bothWays(rule) } : input,
    )
    return decisions.map(d => spoilt(this.bug, rule, d))
  }

  record(rule: Rule, decisions: Decision[]): void {
    const version = (this.versions.get(rule.id)?.length ?? 1) - 1
    for (const d of decisions) {
      if (d.tie) {
        const hoped =
          this.bug === 'takes what it hopes for as agreed'
            ? Object.assign({}, ...d.writes.map(w => w.expect))
            : {}
        const known = this.ties.get(d.tie.id)
        this.ties.set(d.tie.id, {
          ...d.tie,
          base: { ...d.tie.base, ...hoped },
          rule: rule.id,
          version,
          count: known?.count ?? this.counter++,
        })
      }
      this.mustBeRight(rule, d)
      for (const o of d.overridden)
        this.overridden.push({ field: o.field, value: o.value, tie: d.tie?.id ?? '', because: o.because })
      for (const write of d.writes) {
        const taken = this.intents.some(
          i => 'mirrorId' in i.write && 'mirrorId' in write && i.write.mirrorId === write.mirrorId,
        )
        if (taken && this.bug !== 'plans what is under way once more') continue
        const chooses = this.services[rule.home[write.side] as Name].can.choosesIds
        const id = write.op === 'create' ? (chooses ? null : write.item.uid) : write.mirrorId.slice(2)
        this.intents.push({ rule: rule.id, write, id, tried: false })
      }
    }
  }

  /** What is decided against the rule's own words, or against what people did when. */
  private mustBeRight(rule: Rule, d: Decision): void {
    for (const o of d.overridden) {
      const [loser, winner] = o.side === 'a' ? [d.a, d.b] : [d.b, d.a]
      const prop = o.field === 'title' ? 'summary' : o.field === 'notes' ? 'description' : null
      if (
        o.because === 'newer' &&
        this.rules.length === 1 &&
        prop &&
        loser &&
        winner &&
        !rule.settings.title.replace('{title}', '')
      ) {
        const at = (id: string): number => this.serviceOf(id).changedAt(id.slice(2), prop)
        // What a late listing has not shown yet could not be weighed; the precondition refuses the write.
        const unseen = [winner, loser].some(
          id => this.serviceOf(id).items.get(id.slice(2))?.item[prop] !== this.mirrors.get(id)?.item[prop],
        )
        if (at(winner) < at(loser) && !unseen) this.lost.push(`the older ${o.field} won`)
      }
      const asked = (g: World['given'][number]): boolean =>
        g.tie === d.tie?.id && g.field === o.field && sameRaw(g.now[o.side], o.value)
      if (o.because === 'answered' && !this.given.some(asked))
        this.lost.push(`nobody answered for ${o.field}`)
    }
    for (const w of d.writes)
      for (const f of w.op === 'patch' ? w.fields : [])
        if (
          w.side === 'a' &&
          d.tie?.released === null &&
          w.release === null &&
          rule.settings.fields[f.field as Field] === 'a-to-b'
        )
          this.lost.push(`${f.field} came back against its way`)
  }

  // --- applying ----------------------------------------------------------------------------------

  /** Sends every open intent once. `fault` decides what happens to each; `meddle` is an edit in between. */
  apply(fault: () => Fault, meddle: (service: Service, id: string) => void): void {
    let crashed = false
    this.intents = this.intents.filter(intent => {
      if (crashed) return true
      const kind = fault()
      if (kind === 'crash') crashed = true
      return this.send(intent, kind, meddle)
    })
  }

  /** Whether the intent stays open. */
  private send(intent: Intent, kind: Fault, meddle: (service: Service, id: string) => void): boolean {
    const { write } = intent
    const rule = this.rules.find(r => r.id === intent.rule) as Rule
    const name = rule.home[write.side] as Name
    const service = this.services[name]
    if (kind === 'never-arrived') {
      if (this.bug === 'gives up after one failed try') return false
      if (this.bug === 'calls done what never arrived') {
        this.confirm(intent, rule, intent.id ?? '', service.items.get(intent.id ?? '') ?? null, true)
        return false
      }
      intent.tried = true
      return true
    }
    const again = intent.tried
    intent.tried = true
    if (write.op === 'create') return this.create(intent, rule, service, kind, again, meddle)
    const id = intent.id ?? ''
    const present = service.items.get(id)
    if (!present) {
      if (write.op === 'delete') this.confirm(intent, rule, id, null, true)
      else if (again) this.writeDown(intent, rule, id)
      return false
    }
    const stale = String(present.revision) !== write.revision
    if (stale && this.bug !== 'writes without a precondition') {
      // Refused by the precondition: ours already, or somebody else's edit.
      if (again && write.op === 'patch' && alreadyShows(rule, write, present.item))
        this.confirm(intent, rule, id, present, false)
      else if (again) this.writeDown(intent, rule, id)
      return false
    }
    const act = (): void => {
      const now = service.items.get(id)
      if (!now || (String(now.revision) !== write.revision && this.bug !== 'writes without a precondition'))
        return
      this.noteLoss(rule, write, now.item)
      this.wroteAt[name] = this.now
      if (write.op === 'delete') service.delete('us', id)
      else service.patch('us', id, write.patch as ItemPatch)
    }
    if (kind === 'late-effect') {
      this.late.push(act)
      return true
    }
    act()
    if (kind === 'answer-lost' || kind === 'crash') return true
    const ours = service.items.get(id)
    if (kind === 'edited-after' && ours) meddle(service, id)
    const read = service.items.get(id) ?? null
    this.confirm(intent, rule, id, read, read?.revision === ours?.revision && !again)
    return false
  }

  private create(
    intent: Intent,
    rule: Rule,
    service: Service,
    kind: Fault,
    again: boolean,
    meddle: (service: Service, id: string) => void,
  ): boolean {
    const { write } = intent
    if (write.op !== 'create') return false
    const name = rule.home[write.side] as Name
    const anew = again && this.bug === 'makes a new id for each try'
    /** Where the service chooses, our mark is looked for; else the id says whether it is there. */
    const present = (): string | null => {
      if (anew) return null
      if (service.can.choosesIds) return service.byUid(write.item.uid)
      return service.items.has(intent.id ?? '') ? intent.id : null
    }
    const known = present()
    const act = (): string => {
      const there = present()
      const id = there ?? (anew || service.can.choosesIds ? this.fresh('n') : (intent.id ?? ''))
      if (!there) {
        service.put('us', id, write.item)
        this.made.push(`${name}:${id}`)
      }
      return id
    }
    if (kind === 'late-effect') {
      this.late.push(() => void act())
      return true
    }
    const id = act()
    if (kind === 'answer-lost' || kind === 'crash') return true
    const ours = service.items.get(id)
    if (kind === 'edited-after' && ours) meddle(service, id)
    const read = service.items.get(id) ?? null
    this.confirm(intent, rule, id, read, read?.revision === ours?.revision && known === null)
    return false
  }

  /** What a write replaces must be what it says it replaces, and it must say all of it. */
  private noteLoss(rule: Rule, write: PlannedWrite, item: Item): void {
    const tie = this.ties.get(write.tieId)
    const base = tie?.base
    const then = this.versions.get(rule.id)?.[tie?.version ?? 0] ?? rule
    for (const { field, before } of write.fields) {
      const lens = lensesOf(then).find(l => l.field === field)
      if (!lens || field === 'subtasks') continue
      const stood = lens.read(write.side, item, base?.[field]?.[write.side])
      if (!lens.same(write.side, stood, before))
        this.lost.push(`${field}: ${JSON.stringify(stood)}, not ${JSON.stringify(before)}`)
    }
  }

  /** Done, or, where no answer came and somebody has edited since, perhaps done. */
  private writeDown({ write }: Intent, rule: Rule, id: string): void {
    const { tieId: tie, side, op, fields } = write
    this.journal.push({ rule: rule.id, tie, side, op, fields, mirror: `${rule.home[side]}:${id}` })
  }

  private confirm(intent: Intent, rule: Rule, id: string, read: Kept | null, oursToo: boolean): void {
    const { write } = intent
    const name = rule.home[write.side] as Name
    const mirror = `${name}:${id}`
    this.writeDown(intent, rule, id)
    const tie = this.ties.get(write.tieId)
    if (read) this.see(name, id, read, false)
    else {
      const before = this.mirrors.get(mirror)
      if (before) this.mirrors.set(mirror, { ...before, presence: 'gone' })
    }
    if (!tie) return
    const then = this.versions.get(rule.id)?.[tie.version] ?? rule
    const ours =
      this.bug === 'takes what it sent for what was kept'
        ? false
        : oursToo || this.bug === 'takes whatever it reads after a write for its own'
    const returned = { item: read?.item ?? null, mirrorId: mirror, revisionIsOurs: ours }
    this.ties.set(tie.id, { ...tie, ...confirmWrite(then, tie, write, returned) })
  }

  /** One round for every rule, in their order. Returns how many writes reached a service. */
  pass(fault: () => Fault = () => 'none', meddle: (service: Service, id: string) => void = () => {}): number {
    const writes = (): number => Object.values(this.services).reduce((n, s) => n + s.writes, 0)
    const before = writes()
    this.now += 1000
    this.observeAll()
    for (const rule of this.rules) this.record(rule, this.plan(rule))
    this.apply(fault, meddle)
    return writes() - before
  }

  // --- what people do ------------------------------------------------------------------------------

  /** Takes back the last write that can be taken back; says what was to come of it. */
  undo(pick: number): { mirror: string; want: [Field, unknown][] } | null {
    const entry = this.journal[this.journal.length - 1 - (pick % Math.max(1, this.journal.length))]
    const rule = entry && this.rules.find(r => r.id === entry.rule)
    // Where the pair was tied anew since, it is that tie which holds what is put back apart.
    const tie =
      entry &&
      (this.activeTies().find(t => t.rule === entry.rule && t[entry.side] === entry.mirror) ??
        this.ties.get(entry.tie))
    const now = entry && this.mirrors.get(entry.mirror)
    if (!entry || !rule || !tie || !now || this.intents.length > 0) return null
    const other = this.mirrors.get(tie[otherSide(entry.side)] ?? '') ?? null
    const undo = undoOf(rule, entry, tie, now, other?.presence === 'present' ? other : null, false)
    const service = this.serviceOf(entry.mirror)
    if (undo.kind !== 'patch' || service.items.get(now.remoteId)?.revision !== Number(now.revision))
      return null
    service.patch('them', now.remoteId, undo.patch)
    this.tookBack = true
    if (this.bug !== 'puts back without holding apart')
      this.ties.set(tie.id, {
        ...(this.ties.get(tie.id) ?? { ...tie, version: 0, count: 0 }),
        memory: { ...tie.memory, apart: { ...tie.memory.apart, ...undo.apart } },
      })
    return { mirror: entry.mirror, want: undo.fields.map(f => [f.field as Field, f.after]) }
  }

  /** What waits for a person now. */
  held(): { tie: string; field: Field; now: BothSides }[] {
    return this.rules.flatMap(rule =>
      this.plan(rule).flatMap(d =>
        d.held.flatMap(h =>
          h.conflict && d.tie
            ? [{ tie: d.tie.id, field: h.field, now: { a: h.conflict.a, b: h.conflict.b } }]
            : [],
        ),
      ),
    )
  }
  answer(pick: number, take: Side): void {
    const waiting = this.held()
    const one = waiting[pick % Math.max(1, waiting.length)]
    if (!one) return
    this.given.push(one)
    this.answers.set(one.tie, { ...this.answers.get(one.tie), [one.field]: { ...one.now, take } })
  }
  /** With the bug, nobody is waited for. */
  renewAnswers(): void {
    if (this.bug !== 'answers in place of the person') return
    for (const { tie, field, now } of this.held())
      this.answers.set(tie, { ...this.answers.get(tie), [field]: { ...now, take: 'a' } })
  }

  addTask(summary: string, local: string | null, into: Name = 'a', repeats = false): string {
    const id = this.fresh('t')
    const start =
      local === null
        ? null
        : local.length === 10
          ? { kind: 'date' as const, date: local }
          : zoned(local, ZONE)
    this.services[into].put('them', id, {
      ...newTask(id, { summary, start }),
      ...(repeats && { recurring: true, occurrence: '0' }),
    })
    return id
  }
  addEvent(summary: string, local: string, minutes = 30, zone = ZONE, into: Name = 'b'): string {
    const id = this.fresh('e')
    this.services[into].put('them', id, newEvent(id, { anchor: zoned(local, zone), minutes }, { summary }))
    return id
  }
  edit(name: Name, id: string, patch: ItemPatch): void {
    this.services[name].patch('them', id, patch)
  }
  task(id: string): Task | undefined {
    return this.services.a.items.get(id)?.item as Task | undefined
  }
  event(id: string): Event | undefined {
    return this.services.b.items.get(id)?.item as Event | undefined
  }
  /** The one event tied to a task now. */
  eventOf(taskId: string): Event | undefined {
    const tie = this.activeTies().find(t => t.a === `a:${taskId}`)
    return tie?.b ? this.event(tie.b.slice(2)) : undefined
  }
  activeTies(): (Tie & { rule: string })[] {
    return [...this.ties.values()].filter(t => !t.released)
  }
}
