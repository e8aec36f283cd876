import {
  CANNOT_BE_PLANNED,
  type Answer,
  type BothSides,
  type Decision,
  defaultSettings,
  type Event,
  type Field,
  type FieldChange,
  type ItemPatch,
  type Mirror,
  newEvent,
  newTask,
  plainTerms,
  plan,
  type PlannedWrite,
  type Rule,
  type RuleSettings,
  type Side,
  type Task,
  type Tie,
  zoned,
} from '../../src/index.ts'
import { type Bug, bothWays, spoilt } from './bugs.ts'
import { mustBeRight } from './deciding.ts'
import { judgeAbsences, readListings } from './observing.ts'
import { inputFor } from './planning.ts'
import { apply } from './sending.ts'
import { type Capabilities, type Kept, plainService, Service, ZONE } from './service.ts'

export { ZONE } from './service.ts'

/** Services in memory and rules between them: what a server keeps of them, and how it plans. */

export type Fault =
  | 'none'
  | 'answer-lost'
  | 'never-arrived'
  | 'late-effect'
  | 'edited-after'
  /** Where the service checks no precondition: after we looked, and before our write arrives. */
  | 'edited-between'
  /** After we looked, somebody edits the item: refused by its precondition, where the service checks one. */
  | 'edited-before'
  /** The server dies: before it sends anything more, or before it hears the answer. */
  | 'crash-before'
  | 'crash'
  /** From here on, of all that goes to this service in one call, every other write takes effect, and none is answered. */
  | 'batch-cut'
  /** Another server takes this one for dead and sends the same. */
  | 'twice'

interface Tried {
  /** Sent before, without an answer. */
  tried: boolean
}
export interface RuleIntent extends Tried {
  by: 'rule'
  rule: string
  /** The version of the rule that asks for it. */
  version: number
  write: PlannedWrite
  /** Of something to be made: the id it is made under; null where the service chooses. */
  id: string | null
  /** When it was last sent without an answer. */
  triedAt: number
  /** Not before then. */
  nextTry: number
  /** Only somebody can say whether it was made. */
  asks: boolean
}
/** Somebody's edit in our own screens. `before` is what they saw. */
export interface OwnIntent extends Tried {
  by: 'person'
  mirror: string
  patch: ItemPatch
  before: ItemPatch
  /** The round of a repeating task that they ticked off. */
  occurrence: string | null
}
export type Intent = RuleIntent | OwnIntent

export interface Written {
  /** '' for a person. */
  rule: string
  tie: string
  side: Side
  op: PlannedWrite['op']
  fields: FieldChange[]
  mirror: string
  at: number
  /** Whether an answer said so. */
  sure: boolean
}

export const NAMES = ['a', 'b', 'c'] as const
export type Name = (typeof NAMES)[number]

export interface WorldOptions {
  /** Another workspace's world: this one is of the same services. */
  beside?: World
  /** What it puts before whatever it makes an id of. */
  salt?: string
  services?: Partial<Record<Name, Capabilities>>
  rules?: { id: string; a: Name; b: Name; settings?: Partial<RuleSettings> }[]
}

/** How one pass goes. */
export interface PassTerms {
  fault?: () => Fault
  /** Somebody's edit in the midst of it. */
  meddle?: (service: Service, id: string) => void
  /** Planned already while it is not yet known what became of items that the listings left out. */
  early?: boolean
  /** The server dies when it has read, or when it has planned. */
  stops?: 'observed' | 'planned' | null
  /** Meanwhile another server makes the pass; what this one planned is of before. */
  overtaken?: boolean
}

export class World {
  now = Date.parse('2026-11-24T09:00:00Z')
  readonly services: Record<Name, Service>
  readonly mirrors = new Map<string, Mirror>()
  /** What tells its ids from those of another workspace. */
  private readonly tag: string
  private readonly salt: string
  /** Which piece of work a mirror is of, for whoever checks. */
  readonly origins = new Map<string, string>()
  readonly ties = new Map<string, Tie & { rule: string; version: number; count: number; at: number }>()
  intents: Intent[] = []
  readonly overridden: { field: Field; value: unknown; tie: string; because: string }[] = []
  readonly journal: Written[] = []
  /** Origins of what rules made. */
  readonly made: { name: Name; origin: string }[] = []
  /** Uids of what somebody said to leave, made or not. */
  readonly leftAlone = new Set<string>()
  /** Conflicts as they stood when somebody answered. */
  readonly given: { tie: string; field: Field; now: BothSides }[] = []
  readonly answers = new Map<string, Partial<Record<Field, Answer>>>()
  readonly rules: Rule[]
  readonly paused = new Set<string>()
  /** Every version that a rule ever had. */
  readonly versions = new Map<string, Rule[]>()
  /** Whether anything was put back: moved to an earlier round's date and back again, an item goes by a week. */
  tookBack = false
  /** Whether any write of it went wrong. */
  faulty = false
  /** Values that a write of ours replaced without the journal naming them. */
  readonly lost: string[] = []
  /** What became of people's edits in our own screens. */
  readonly own = { done: 0, refused: 0 }
  /** Fields held because they go to and fro. */
  readonly toAndFro = new Set<string>()
  /** What takes effect only after the caller has given up. */
  readonly late: (() => void)[] = []
  /** Lists whose first complete reading is still to come. */
  readonly withoutBaseline = new Set<string>()
  /** Origins of what is new to no rule: it stood there before, or was an invitation. */
  readonly stood = new Set<string>()
  /** When each list was last read. */
  readonly looked = new Map<string, number>()
  readonly wroteAt: Record<string, number> = { a: 0, b: 0, c: 0 }
  /** When a pass had come to rest: nothing was written, and nothing waited, for a service or for a person. */
  readonly quiet: number[] = []
  /** How many pairs have a field that waits for a person. */
  private heldNow = 0
  /** Counts what was recorded. */
  private fence = 0
  private counter = 0

  constructor(
    settings: Partial<RuleSettings> = {},
    readonly bug: Bug | null = null,
    options: WorldOptions = {},
  ) {
    const clock = (): number => this.now
    const can = {
      a: plainService('task'),
      b: plainService('event'),
      c: plainService('task'),
      ...options.services,
    }
    this.services = options.beside?.services ?? {
      a: new Service(can.a, clock),
      b: new Service(can.b, clock),
      c: new Service(can.c, clock),
    }
    this.tag = options.beside ? 'beside/' : ''
    this.salt = options.salt ?? ''
    this.rules = (options.rules ?? [{ id: 'r', a: 'a', b: 'b' }]).map(r =>
      this.ruleFor(r.id, r.a, r.b, { ...settings, ...r.settings }),
    )
    for (const r of this.rules) this.versions.set(r.id, [r])
  }

  get tasks(): Service {
    return this.services.a
  }
  get events(): Service {
    return this.services.b
  }
  get rule(): Rule {
    return this.rules[0] as Rule
  }

  private ruleFor(id: string, a: Name, b: Name, settings: Partial<RuleSettings>): Rule {
    const terms = (name: Name) => {
      const { kind, titleMax, minutesOnly, daysOnly, hasPlan } = this.services[name].can
      return {
        ...plainTerms,
        identity: {
          service: name,
          by: this.services[name].can.choosesIds ? ('remoteId' as const) : ('uid' as const),
          lists: Object.fromEntries(this.listsOf(name).map(list => [list, list])),
        },
        zone: kind === 'task' ? ZONE : null,
        summaryMaxLength: titleMax,
        canHold: { ...plainTerms.canHold, start: hasPlan },
        precision: daysOnly ? ('day' as const) : minutesOnly ? ('minute' as const) : ('second' as const),
      }
    }
    return {
      id,
      kinds: { a: this.services[a].can.kind, b: this.services[b].can.kind },
      home: { a, b },
      collections: { a: this.listsOf(a), b: this.listsOf(b) },
      settings: { ...defaultSettings, ...settings },
      terms: { a: terms(a), b: terms(b) },
      zone: ZONE,
      newSince: this.now,
    }
  }

  private listsOf(name: Name): string[] {
    return this.services[name].can.wide ? [name, `${name}/side`] : [name]
  }
  fresh(prefix: string): string {
    return `${prefix}${++this.counter}`
  }
  nameOf(mirrorId: string): Name {
    return mirrorId[0] as Name
  }
  serviceOf(mirrorId: string): Service {
    return this.services[this.nameOf(mirrorId)]
  }
  /** What a mirror is of, as it stands at its service now. */
  standing(mirrorId: string | null): Kept | undefined {
    if (mirrorId === null) return undefined
    return this.serviceOf(mirrorId).byOrigin(this.origins.get(mirrorId) ?? '')
  }
  /** Ids are what they are made of, without what stands between the parts of a uid. */
  readonly idFor = (key: string): string => `${this.salt}${key}`.replaceAll('.', '_')
  mirrorId(name: Name, remoteId: string): string {
    return `${name}:${this.tag}${remoteId}`
  }
  /** The mirror of what a service holds under an id. */
  mirrorAt(name: Name, remoteId: string): Mirror | undefined {
    const there = (m: Mirror | undefined): boolean => m?.remoteId === remoteId
    const plain = this.mirrors.get(this.mirrorId(name, remoteId))
    if (there(plain)) return plain
    return [...this.mirrors].find(([key, m]) => this.nameOf(key) === name && there(m))?.[1]
  }

  /** The rule is written anew; ties keep what they agreed on under the old words. */
  editRule(index: number, settings: Partial<RuleSettings>): void {
    const old = this.rules[index]
    if (!old) return
    const next = { ...old, settings: { ...old.settings, ...settings } }
    this.rules[index] = next
    this.versions.get(old.id)?.push(next)
    if (this.bug === 'forgets what was put back when the rule is edited')
      for (const [id, t] of this.ties) {
        const { apart: _, ...memory } = t.memory
        if (t.rule === old.id) this.ties.set(id, { ...t, memory })
      }
    if (this.bug === 'makes its ties anew when the rule is edited') {
      for (const [id, t] of this.ties) if (t.rule === old.id) this.ties.delete(id)
      this.made.length = 0
    }
  }

  /** What was decided and not sent is decided anew when the rule goes on. */
  pause(index: number): void {
    const rule = this.rules[index]
    if (!rule) return
    if (this.paused.delete(rule.id)) return
    this.paused.add(rule.id)
    const dropped = this.intents.filter(i => i.by === 'rule' && i.rule === rule.id && !i.tried)
    this.intents = this.intents.filter(i => !dropped.includes(i))
    for (const i of dropped) if (i.by === 'rule' && i.write.op === 'create') this.ties.delete(i.write.tieId)
  }

  // --- planning ----------------------------------------------------------------------------------

  plan(rule: Rule = this.rule): Decision[] {
    const input = inputFor(this, rule)
    const decisions = plan(
      this.bug === 'reads a one-way field both ways' ? { ...input, rule: bothWays(rule) } : input,
    )
    for (const d of decisions)
      for (const h of d.held) if (h.reason.startsWith(CANNOT_BE_PLANNED)) throw new Error(h.reason)
    return decisions.map(d => spoilt(this.bug, rule, this.onLastBase(d)))
  }

  /** With the bug, what a deletion brought about counts as what people said. */
  private onLastBase(d: Decision): Decision {
    if (this.bug !== 'merges on what was agreed before a deletion when the item is back') return d
    const last = [...this.ties.values()].findLast(t => t.released && t.a === d.a && t.b === d.b)
    return d.reason === 'resumed' && d.tie && last
      ? { ...d, tie: { ...d.tie, base: last.base }, writes: [] }
      : d
  }

  /** Not planned while it is paused, or while one of its sides cannot be seen. */
  private rests(rule: Rule): boolean {
    const closed = [rule.home.a, rule.home.b].some(n => this.services[n as Name].closed !== 'no')
    return this.paused.has(rule.id) || (closed && this.bug !== 'deletes what it may no longer see')
  }

  /** An answer counts once: what waits no longer leaves the queue, and its answer with it. */
  private useAnswers({ tie, held }: Decision): void {
    const given = Object.entries(this.answers.get(tie?.id ?? '') ?? {})
    if (!tie || given.length === 0) return
    this.answers.set(tie.id, Object.fromEntries(given.filter(([field]) => held.some(h => h.field === field))))
  }

  record(rule: Rule, decisions: Decision[]): void {
    const version = (this.versions.get(rule.id)?.length ?? 1) - 1
    this.fence++
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
          version: d.asBefore ? (known?.version ?? version) : version,
          count: known?.count ?? this.counter++,
          at: known?.at ?? this.now,
        })
      }
      mustBeRight(this, rule, d)
      this.useAnswers(d)
      for (const h of d.held)
        if (h.reason.includes('left as it is')) this.toAndFro.add(`${d.tie?.id} ${h.field}`)
      for (const o of d.overridden)
        this.overridden.push({ field: o.field, value: o.value, tie: d.tie?.id ?? '', because: o.because })
      for (const write of d.writes) {
        const taken = this.intents.some(i => 'mirrorId' in write && targetOf(i) === write.mirrorId)
        if (taken && this.bug !== 'plans what is under way once more') continue
        const chooses = this.services[rule.home[write.side] as Name].can.choosesIds
        const id = write.op === 'create' && !chooses ? write.item.uid : null
        const fresh = { tried: false, triedAt: 0, nextTry: 0, asks: false }
        this.intents.push({ by: 'rule', rule: rule.id, version, write, id, ...fresh })
      }
    }
  }

  observeAll(): void {
    judgeAbsences(this, readListings(this))
  }

  // --- a pass ------------------------------------------------------------------------------------

  /** Each rule in its order, planned upon what the one before it has recorded. */
  private planInTurn(): void {
    this.heldNow = 0
    for (const rule of this.rules) {
      if (this.rests(rule)) continue
      const decisions = this.plan(rule)
      this.heldNow += decisions.filter(d => d.held.length > 0).length
      this.record(rule, decisions)
    }
  }

  /** One round for every rule. Returns how many writes reached a service. */
  pass(terms: PassTerms = {}): number {
    const writes = (): number => Object.values(this.services).reduce((n, s) => n + s.writes, 0)
    const before = writes()
    this.now += 1000
    for (const act of this.late.splice(0)) act()
    for (const service of Object.values(this.services)) service.runRobot()
    const { fence } = this
    const old = terms.overtaken
      ? this.rules.filter(r => !this.rests(r)).map(r => [r, this.plan(r)] as const)
      : []
    const open = readListings(this)
    if (terms.early) this.planInTurn()
    judgeAbsences(this, open)
    if (terms.stops === 'observed') return 0
    this.planInTurn()
    if (terms.stops === 'planned') return 0
    apply(this, terms.fault ?? (() => 'none'), terms.meddle ?? (() => {}))
    // Whoever planned upon an older record has lost its lease, and is refused.
    if (this.fence === fence || this.bug === 'commits what it planned before another server took over')
      for (const [rule, decisions] of old) this.record(rule, decisions)
    const written = writes() - before
    const waits = this.intents.length + this.late.length + this.heldNow > 0
    // What was said where nobody can look has not come to rest.
    const isClosed = Object.values(this.services).some(service => service.closed !== 'no')
    if (written === 0 && !waits && !isClosed) this.quiet.push(this.now)
    return written
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
    const tie = this.activeTies().find(t => t.a === this.mirrorId('a', taskId))
    return this.standing(tie?.b ?? null)?.item as Event | undefined
  }
  activeTies(): (Tie & { rule: string; at: number })[] {
    return [...this.ties.values()].filter(t => !t.released)
  }
}

/** The item that a write goes to; null where it makes one. */
export const targetOf = (i: Intent): string | null =>
  i.by === 'person' ? i.mirror : 'mirrorId' in i.write ? i.write.mirrorId : null
