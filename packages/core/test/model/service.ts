import { dayOf, type Item, type ItemPatch, onDate, type Search, withPatch } from '../../src/index.ts'

/** Where the rules are kept. */
export const ZONE = 'Europe/Dublin'

/** One simulated service: what it can do, how it tells things, and everything that was ever done to it. */

export interface Capabilities {
  kind: Item['kind']
  /** Titles are trimmed and cut here. */
  titleMax: number | null
  /** Notes are trimmed, of which nobody is told. */
  trimsNotes: boolean
  /** Seconds are dropped. */
  minutesOnly: boolean
  /** Its tasks have days and no hours. */
  daysOnly: boolean
  /** Its tasks have a plan beside their deadline. */
  hasPlan: boolean
  /** Its clock minus ours, ms, and how coarse it is. */
  skew: number
  grain: number
  /** `late`: what was changed since the last listing is only in the next. `forgetful`: it leaves one item out. */
  listing: 'true' | 'late' | 'forgetful'
  /** Completed tasks are in no listing. */
  hidesDone: boolean
  /** It gives new items ids of its own, and keeps our uid as a mark. */
  choosesIds: boolean
  /** What was made may be missing from its lists for so long, ms. */
  behindMs: number
  /** `content`: it has no revisions, so the content stands for them: what was changed back reads as unchanged. */
  revisions: 'counted' | 'content'
  /** Whether it refuses a write upon something changed; otherwise we read first, and somebody may come in between. */
  preconditions: boolean
  /** What is moved to its other list keeps its id, or is deleted here and made there under a new one. */
  moves: 'keeps-id' | 'new-id'
  /** Whether its other list takes part in the rules as well. */
  wide: boolean
  /** Somebody else's program, which writes titles and notes the way it likes whenever it looks. */
  robot: 'none' | 'capitals' | 'notes'
}

export const plainService = (kind: Item['kind']): Capabilities => ({
  kind,
  titleMax: kind === 'task' ? 20 : null,
  trimsNotes: false,
  minutesOnly: kind === 'task',
  hasPlan: true,
  daysOnly: false,
  skew: 0,
  grain: 1,
  listing: 'true',
  hidesDone: false,
  choosesIds: false,
  behindMs: 0,
  revisions: 'counted',
  preconditions: true,
  moves: 'keeps-id',
  wide: false,
  robot: 'none',
})

/** The list or calendar that rules pair, and another. */
export const LISTS = ['main', 'side'] as const
export type List = (typeof LISTS)[number]

export interface Kept {
  id: string
  list: List
  item: Item
  revision: string
  /** By the world's clock, ms. */
  at: number
  /** The same for one piece of work, wherever it moves and under whatever id. */
  origin: string
}

export interface Deed {
  by: 'us' | 'them'
  /** Ours, for somebody who edited in our own screens. */
  asked?: true
  origin: string
  op: 'put' | 'delete'
  /** Nobody said it: the service went back to an earlier version. */
  restored?: true
  before: Item | null
  after: Item | null
  /** By the world's clock, ms. */
  at: number
}

/** A repeating task that is done is in its next round, a week later and open. */
function movedOn(item: Item): Item {
  if (item.kind !== 'task' || !item.recurring || item.status !== 'completed') return item
  const { start } = item
  const later = (day: string): string =>
    new Date(Date.parse(`${day}T00:00:00Z`) + 7 * 86_400_000).toISOString().slice(0, 10)
  const next =
    start === null
      ? null
      : start.kind === 'date'
        ? { ...start, date: later(start.date) }
        : { ...start, local: `${later(start.local.slice(0, 10))}${start.local.slice(10)}` }
  return { ...item, status: 'needs-action', start: next, occurrence: String(Number(item.occurrence) + 1) }
}

const MARK = 'Seen by the robot'

export class Service {
  readonly items = new Map<string, Kept>()
  readonly deeds: Deed[] = []
  /** The origin of a copy, and of what it is a copy of. */
  readonly copyOf = new Map<string, string>()
  /** Ids of copies and originals that were known beside each other: neither is where the other went. */
  readonly knownBeside = new Set<string>()
  /** When it was asked for what we made there, by origin. */
  readonly askedAt = new Map<string, number>()
  /** `revoked`: it lets us in no more. `vanished`: the list that rules pair cannot be found. */
  closed: 'no' | 'revoked' | 'vanished' = 'no'
  /** It was closed at some time: what was done meanwhile, nobody may have seen. */
  wasClosed = false
  private revision = 0
  private asked = 0
  /** How much had been done to it when somebody looked. */
  private readonly looks: number[] = []
  private readonly shown = new Map<List, Map<string, Kept>>()

  constructor(
    readonly can: Capabilities,
    private readonly now: () => number,
  ) {}

  get writes(): number {
    return this.deeds.filter(d => d.by === 'us').length
  }

  private normalise(item: Item): Item {
    const { titleMax, minutesOnly, daysOnly, skew, grain, trimsNotes, hasPlan } = this.can
    const cut = titleMax === null ? item.summary : Array.from(item.summary.trim()).slice(0, titleMax).join('')
    const stamp = new Date(Math.floor((this.now() + skew) / grain) * grain).toISOString()
    const told = { ...item, summary: titleMax === null ? cut : cut.trim(), lastModified: stamp }
    if (trimsNotes) told.description = told.description.trim()
    if (told.kind === 'task' && !hasPlan) told.start = null
    if (told.kind === 'task' && minutesOnly && told.start && told.start.kind !== 'date')
      told.start = { ...told.start, local: `${told.start.local.slice(0, 16)}:00` }
    if (told.kind === 'task' && daysOnly && told.start) told.start = onDate(dayOf(told.start, ZONE))
    return told
  }

  put(by: Deed['by'], id: string, item: Item, list: List = 'main', origin = id): Kept {
    const present = this.items.get(id)
    const after = this.normalise(item)
    const told = JSON.stringify({ ...after, lastModified: null })
    const revision = this.can.revisions === 'counted' ? String(++this.revision) : told
    const kept: Kept = {
      id,
      list: present?.list ?? list,
      item: after,
      revision,
      at: this.now(),
      origin: present?.origin ?? origin,
    }
    this.items.set(id, kept)
    const before = present?.item ?? null
    this.deeds.push({ by, origin: kept.origin, op: 'put', before, after, at: this.now() })
    return kept
  }
  patch(by: Deed['by'], id: string, patch: ItemPatch): Kept | null {
    const present = this.items.get(id)
    return present ? this.put(by, id, movedOn(withPatch(present.item, patch))) : null
  }
  /** Somebody puts back what was deleted, as it was, when it was last changed included. */
  restore(id: string, item: Item, origin: string): void {
    const kept = this.put('them', id, item, 'main', origin)
    this.items.set(id, { ...kept, item: { ...kept.item, lastModified: item.lastModified } })
  }
  /** A backup is restored: the item is there as it was, and nobody said so. */
  goBack({ id, item, origin }: Kept): void {
    this.restore(id, item, origin)
    const last = this.deeds.at(-1)
    if (last) last.restored = true
  }
  delete(by: Deed['by'], id: string): void {
    const present = this.items.get(id)
    if (present && this.items.delete(id))
      this.deeds.push({
        by,
        origin: present.origin,
        op: 'delete',
        before: present.item,
        after: null,
        at: this.now(),
      })
  }
  /** Somebody drags it to the other list. `id` is the one it has there, where that is a new one. */
  move(id: string, newId: string): void {
    const present = this.items.get(id)
    if (!present) return
    const list = present.list === 'main' ? 'side' : 'main'
    const moved = this.can.moves === 'keeps-id' ? id : newId
    this.items.delete(id)
    const revision = this.can.revisions === 'counted' ? String(++this.revision) : present.revision
    this.items.set(moved, { ...present, id: moved, list, revision })
  }

  /** Somebody's program copies it to the other list, under its uid, and may remove it here later. */
  copy(id: string, newId: string): void {
    const present = this.items.get(id)
    if (!present) return
    this.put('them', newId, present.item, present.list === 'main' ? 'side' : 'main')
    this.copyOf.set(newId, present.origin)
  }

  /** The other program has its way with what it finds. */
  runRobot(): void {
    for (const [id, { item, list }] of [...this.items]) {
      if (list !== 'main') continue
      const title = item.summary.replace(/^([✓\s]*)([a-z])/, (_, s: string, c: string) => s + c.toUpperCase())
      if (this.can.robot === 'capitals' && title !== item.summary) this.patch('them', id, { summary: title })
      if (this.can.robot === 'notes' && !item.description.includes(MARK))
        this.patch('them', id, { description: `${item.description} ${MARK}`.trim() })
    }
  }

  /**
   * When what is read from an item came to be what it is, as far as looking can tell: what was changed and changed back between
   * two looks shows in neither.
   */
  changedAt(id: string, read: (item: Item) => string): number {
    const at = (item: Item | null | undefined): string | undefined => (item ? read(item) : undefined)
    const origin = this.items.get(id)?.origin
    const told = this.deeds.map((d, n) => ({ ...d, n })).filter(d => d.origin === origin && d.after)
    const now = at(told.at(-1)?.after)
    const was = (look: number): string | undefined => at(told.findLast(d => d.n < look)?.after)
    const other = this.looks.findLast(look => ![undefined, now].includes(was(look))) ?? 0
    return told.find(d => d.n >= other && at(d.after) === now)?.at ?? 0
  }
  /** Whether its listings are late, and it was edited more than once of late. */
  isBlurred(origin: string): boolean {
    const lately = this.deeds.filter(d => d.origin === origin && d.at > this.now() - 300_000)
    return this.can.listing === 'late' && lately.length > 1
  }
  /** What its lists show of a uid, as long as they can be looked at. */
  search(uid: string): Search<Kept> {
    const closed = this.closed === 'vanished' ? [{ name: 'main' }] : []
    const listed = (k: Kept): boolean =>
      this.now() - (this.askedAt.get(k.origin) ?? 0) >= this.can.behindMs &&
      (k.list === 'side' || closed.length === 0)
    return { found: this.byUid(uid).filter(listed), unreadable: 0, closed }
  }
  byUid(uid: string): Kept[] {
    return [...this.items.values()].filter(k => k.item.uid === uid)
  }
  byOrigin(origin: string): Kept | undefined {
    return [...this.items.values()].find(k => k.origin === origin)
  }

  /** Somebody sees what stands here now: by a listing, or by what comes back from a write. */
  look(): void {
    this.looks.push(this.deeds.length)
  }

  /** What a listing says; null where it says nothing. It may be believed about what it leaves out never. */
  list(which: List): Map<string, Kept> | null {
    if (this.closed === 'revoked' || (this.closed === 'vanished' && which === 'main')) return null
    this.asked++
    this.look()
    const all = new Map([...this.items].filter(([, k]) => k.list === which))
    if (this.can.hidesDone)
      for (const [id, { item }] of all)
        if (item.kind === 'task' && item.status === 'completed') all.delete(id)
    if (this.can.listing === 'forgetful' && this.asked % 3 === 0)
      all.delete([...all.keys()][this.asked % Math.max(1, all.size)] ?? '')
    if (this.can.listing === 'late') {
      const late = this.shown.get(which)
      this.shown.set(which, all)
      return late ?? all
    }
    return all
  }
}
