import {
  alreadyShows,
  confirmWrite,
  type Decision,
  defaultSettings,
  type Event,
  type Field,
  type Item,
  type ItemPatch,
  lensesOf,
  type Mirror,
  newEvent,
  newTask,
  observe,
  plainTerms,
  plan,
  type PlannedWrite,
  type Rule,
  type Task,
  type Tie,
  withPatch,
  zoned,
} from '../../src/index.ts'

/** Two services in memory and one rule between them, with the faults that real ones have. */

interface Remote {
  item: Item
  revision: number
}

/** One simulated service: it keeps every edit that was made to it, by whomever. */
class Service {
  readonly items = new Map<string, Remote>()
  writes = 0
  constructor(readonly normalise: (item: Item) => Item) {}

  put(id: string, item: Item): Remote {
    const remote = { item: this.normalise(item), revision: (this.items.get(id)?.revision ?? 0) + 1 }
    this.items.set(id, remote)
    return remote
  }
}

/** Mistakes that have been made by others, to see that the model would notice them here. */
export const BUGS = [
  'writes without a precondition',
  'makes a new id for each try',
  'takes whatever it reads after a write for its own',
  'takes what it hopes for as agreed',
  'forgets what it is making',
  'trusts a listing that leaves something out',
  'takes changes soon after its own write for an echo',
] as const
export type Bug = (typeof BUGS)[number]

export type Fault = 'none' | 'answer-lost' | 'never-arrived' | 'edited-after'

interface Intent {
  write: PlannedWrite
  /** Fixed before the first try. */
  id: string
  tried: boolean
}

export const ZONE = 'Europe/Dublin'

export class World {
  now = Date.parse('2026-11-24T09:00:00Z')
  readonly tasks = new Service(item =>
    item.kind === 'task' ? { ...item, summary: Array.from(item.summary.trim()).slice(0, 20).join('') } : item,
  )
  readonly events = new Service(item => item)
  readonly mirrors = new Map<string, Mirror>()
  ties = new Map<string, Tie>()
  intents: Intent[] = []
  readonly overridden: unknown[] = []
  readonly made: string[] = []
  private looked = { a: 0, b: 0 }
  private wroteAt = { a: 0, b: 0 }
  private made_ = 0

  readonly rule: Rule

  /** Values that a write of ours replaced without the journal naming them. */
  readonly lost: string[] = []

  constructor(
    settings: Partial<typeof defaultSettings> = {},
    private readonly bug: Bug | null = null,
  ) {
    this.rule = {
      id: 'r',
      kinds: { a: 'task', b: 'event' },
      home: { a: 'list', b: 'cal' },
      collections: { a: ['list'], b: ['cal'] },
      settings: { ...defaultSettings, ...settings },
      terms: { a: { ...plainTerms, zone: ZONE, summaryMaxLength: 20, precision: 'minute' }, b: plainTerms },
      zone: ZONE,
      enabledAt: this.now,
    }
  }

  service(side: 'a' | 'b'): Service {
    return side === 'a' ? this.tasks : this.events
  }

  fresh(prefix: string): string {
    return `${prefix}${++this.made_}`
  }

  observeAll(): void {
    for (const side of ['a', 'b'] as const) {
      const service = this.service(side)
      const collectionId = side === 'a' ? 'list' : 'cal'
      const left =
        this.bug === 'trusts a listing that leaves something out' ? [...service.items.keys()].at(-1) : null
      const wrote =
        this.now - this.wroteAt[side] < 3000 &&
        this.bug === 'takes changes soon after its own write for an echo'
      for (const [id, { item, revision }] of service.items) {
        if (id === left && this.looked[side] % 3000 === 0) continue
        const key = `${side}:${id}`
        const seen = { remoteId: id, collectionId, revision: String(revision), item }
        const looked = { before: this.looked[side], now: this.now, skew: 0 }
        const result = observe(this.mirrors.get(key) ?? null, seen, looked, key)
        if (result.kind === 'same') continue
        const before = this.mirrors.get(key)
        this.mirrors.set(
          key,
          wrote && before ? { ...before, revision: result.mirror.revision } : result.mirror,
        )
      }
      for (const [key, m] of this.mirrors)
        if (
          key.startsWith(`${side}:`) &&
          (!service.items.has(m.remoteId) || (m.remoteId === left && this.looked[side] % 3000 === 0))
        )
          this.mirrors.set(key, { ...m, presence: 'gone' })
      this.looked[side] = this.now
    }
  }

  plan(): Decision[] {
    const active = [...this.ties.values()].filter(t => !t.released)
    const held = new Set(active.flatMap(t => [t.a, t.b]))
    const of = (side: string): Mirror[] => [...this.mirrors.values()].filter(m => m.id.startsWith(side))
    const free = (side: string): Mirror[] => of(side).filter(m => m.presence === 'present' && !held.has(m.id))
    const released = new Map<string, Tie>()
    for (const t of this.ties.values())
      if (t.released) for (const id of [t.a, t.b]) if (id) released.set(id, t)
    return plan({
      rule: this.rule,
      pairs: active.map(tie => ({
        tie,
        a: this.mirrors.get(tie.a ?? '') ?? null,
        b: this.mirrors.get(tie.b ?? '') ?? null,
      })),
      untied: { a: free('a'), b: free('b') },
      released,
      busy: new Set(this.intents.flatMap(i => ('mirrorId' in i.write ? [i.write.mirrorId] : []))),
      pendingUids: new Set(
        this.bug === 'forgets what it is making'
          ? []
          : this.intents.flatMap(i => (i.write.op === 'create' ? [i.write.item.uid] : [])),
      ),
      now: this.now,
      idFor: key => key,
    })
  }

  record(decisions: Decision[]): void {
    for (const d of decisions) {
      const hoped =
        this.bug === 'takes what it hopes for as agreed'
          ? Object.assign({}, ...d.writes.map(w => w.expect))
          : {}
      if (d.tie) this.ties.set(d.tie.id, { ...d.tie, base: { ...d.tie.base, ...hoped } })
      this.overridden.push(...d.overridden.map(o => o.value))
      for (const write of d.writes)
        this.intents.push({
          write,
          id: write.op === 'create' ? write.item.uid : write.mirrorId.slice(2),
          tried: false,
        })
    }
  }

  /** Sends every open intent once. `fault` decides what happens to each; `meddle` is an edit in between. */
  apply(fault: () => Fault, meddle: (side: 'a' | 'b', id: string) => void): void {
    this.intents = this.intents.filter(intent => {
      const { write, id } = intent
      const service = this.service(write.side)
      const kind = fault()
      if (kind === 'never-arrived') return true
      const present = service.items.get(id)
      const again = intent.tried
      intent.tried = true
      if (write.op === 'create' && again && this.bug === 'makes a new id for each try') {
        intent.id = this.fresh('again-')
        service.put(intent.id, write.item)
        this.made.push(intent.id)
        this.confirm(write, intent.id, service.items.get(intent.id) ?? null, true)
        return false
      }
      if (write.op === 'create') {
        if (!present) {
          service.put(id, write.item)
          this.made.push(id)
          service.writes++
        }
      } else if (!present) {
        if (write.op !== 'delete') return false
        this.confirm(write, id, null, true)
        return false
      } else if (
        String(present.revision) !== write.revision &&
        this.bug !== 'writes without a precondition'
      ) {
        // Refused by the precondition: ours already, or somebody else's edit.
        if (again && write.op === 'patch' && alreadyShows(this.rule, write, present.item as Task | Event))
          this.confirm(write, id, present, false)
        return false
      } else {
        service.writes++
        this.wroteAt[write.side] = this.now
        this.noteLoss(write, present.item)
        if (write.op === 'delete') service.items.delete(id)
        else service.put(id, withPatch(present.item, write.patch as ItemPatch))
      }
      if (kind === 'answer-lost') return true
      const ours = service.items.get(id)
      if (kind === 'edited-after' && ours) meddle(write.side, id)
      const read = service.items.get(id) ?? null
      const own = read?.revision === ours?.revision && !again
      this.confirm(write, id, read, own || this.bug === 'takes whatever it reads after a write for its own')
      return false
    })
  }

  /** What a write replaces must be what it says it replaces. */
  private noteLoss(write: PlannedWrite, item: Item): void {
    for (const { field, before } of write.fields) {
      const lens = lensesOf(this.rule).find(l => l.field === field)
      const base = this.ties.get(write.tieId)?.base[field as Field]?.[write.side]
      const stood = lens?.read(write.side, item, base)
      if (!lens?.same(write.side, stood, before))
        this.lost.push(`${field}: ${JSON.stringify(stood)}, not ${JSON.stringify(before)}`)
    }
  }

  private confirm(write: PlannedWrite, id: string, read: Remote | null, ours: boolean): void {
    const tie = this.ties.get(write.tieId)
    if (!tie) return
    const mirrorId = `${write.side}:${id}`
    const before = this.mirrors.get(mirrorId) ?? null
    if (read) {
      const collectionId = write.side === 'a' ? 'list' : 'cal'
      const seen = { remoteId: id, collectionId, revision: String(read.revision), item: read.item }
      const looked = { before: this.looked[write.side], now: this.now, skew: 0 }
      const result = observe(before, seen, looked, mirrorId)
      if (result.kind !== 'same') this.mirrors.set(mirrorId, result.mirror)
    } else if (before) this.mirrors.set(mirrorId, { ...before, presence: 'gone' })
    const returned = { item: read?.item ?? null, mirrorId, revisionIsOurs: ours }
    this.ties.set(tie.id, confirmWrite(this.rule, tie, write, returned))
  }

  pass(fault: () => Fault = () => 'none', meddle: (side: 'a' | 'b', id: string) => void = () => {}): number {
    const before = this.tasks.writes + this.events.writes
    this.now += 1000
    this.observeAll()
    this.record(this.plan())
    this.apply(fault, meddle)
    return this.tasks.writes + this.events.writes - before
  }

  addTask(summary: string, local: string | null): string {
    const id = this.fresh('t')
    const start =
      local === null
        ? null
        : local.length === 10
          ? { kind: 'date' as const, date: local }
          : zoned(local, ZONE)
    this.tasks.put(id, newTask(id, { summary, start }))
    return id
  }

  addEvent(summary: string, local: string, minutes = 30, zone = ZONE): string {
    const id = this.fresh('e')
    this.events.put(id, newEvent(id, { anchor: zoned(local, zone), minutes }, { summary }))
    return id
  }

  edit(side: 'a' | 'b', id: string, patch: ItemPatch): void {
    const service = this.service(side)
    const present = service.items.get(id)
    if (present) service.put(id, withPatch(present.item, patch))
  }

  task(id: string): Task | undefined {
    return this.tasks.items.get(id)?.item as Task | undefined
  }

  event(id: string): Event | undefined {
    return this.events.items.get(id)?.item as Event | undefined
  }

  /** The one event tied to a task now. */
  eventOf(taskId: string): Event | undefined {
    const tie = [...this.ties.values()].find(t => !t.released && t.a === `a:${taskId}`)
    return tie?.b ? this.event(tie.b.slice(2)) : undefined
  }

  activeTies(): Tie[] {
    return [...this.ties.values()].filter(t => !t.released)
  }
}
