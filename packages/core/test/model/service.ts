import { type Item, type ItemPatch, withPatch } from '../../src/index.ts'

/** One simulated service: what it can do, how it tells things, and everything that was ever done to it. */

export interface Capabilities {
  kind: Item['kind']
  /** Titles are trimmed and cut here. */
  titleMax: number | null
  /** Seconds are dropped. */
  minutesOnly: boolean
  /** Its clock minus ours, ms, and how coarse it is. */
  skew: number
  grain: number
  /** `late`: what was changed since the last listing is only in the next. `forgetful`: it leaves one item out. */
  listing: 'true' | 'late' | 'forgetful'
  /** Completed tasks are in no listing. */
  hidesDone: boolean
  /** It gives new items ids of its own, and keeps our uid as a mark. */
  choosesIds: boolean
}

export const plainService = (kind: Item['kind']): Capabilities => ({
  kind,
  titleMax: kind === 'task' ? 20 : null,
  minutesOnly: kind === 'task',
  skew: 0,
  grain: 1,
  listing: 'true',
  hidesDone: false,
  choosesIds: false,
})

export interface Kept {
  item: Item
  revision: number
  /** By the world's clock, ms. */
  at: number
}

export interface Deed {
  by: 'us' | 'them'
  id: string
  op: 'put' | 'delete'
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

export class Service {
  readonly items = new Map<string, Kept>()
  readonly deeds: Deed[] = []
  private revision = 0
  private asked = 0
  private readonly looks: number[] = []
  private shown = new Map<string, Kept>()

  constructor(
    readonly can: Capabilities,
    private readonly now: () => number,
  ) {}

  get writes(): number {
    return this.deeds.filter(d => d.by === 'us').length
  }

  private normalise(item: Item): Item {
    const { titleMax, minutesOnly, skew, grain } = this.can
    const cut = titleMax === null ? item.summary : Array.from(item.summary.trim()).slice(0, titleMax).join('')
    const stamp = new Date(Math.floor((this.now() + skew) / grain) * grain).toISOString()
    const told = { ...item, summary: titleMax === null ? cut : cut.trim(), lastModified: stamp }
    if (told.kind === 'task' && minutesOnly && told.start && told.start.kind !== 'date')
      told.start = { ...told.start, local: `${told.start.local.slice(0, 16)}:00` }
    return told
  }

  put(by: Deed['by'], id: string, item: Item): Kept {
    const before = this.items.get(id)?.item ?? null
    const kept = { item: this.normalise(item), revision: ++this.revision, at: this.now() }
    this.items.set(id, kept)
    this.deeds.push({ by, id, op: 'put', before, after: kept.item, at: this.now() })
    return kept
  }
  patch(by: Deed['by'], id: string, patch: ItemPatch): Kept | null {
    const present = this.items.get(id)
    return present ? this.put(by, id, movedOn(withPatch(present.item, patch))) : null
  }
  delete(by: Deed['by'], id: string): void {
    const before = this.items.get(id)?.item
    if (before && this.items.delete(id))
      this.deeds.push({ by, id, op: 'delete', before, after: null, at: this.now() })
  }
  /**
   * When a property came to be what it is, as far as looking can tell: what was changed and changed back between
   * two looks shows in neither.
   */
  changedAt(id: string, prop: 'summary' | 'description'): number {
    const deeds = this.deeds.filter(d => d.id === id && d.after)
    const now = deeds.at(-1)?.after?.[prop]
    const was = (at: number): string | undefined => deeds.findLast(d => d.at <= at)?.after?.[prop]
    const other = this.looks.findLast(at => ![undefined, now].includes(was(at))) ?? -1
    return deeds.find(d => d.at > other && d.after?.[prop] === now)?.at ?? 0
  }
  byUid(uid: string): string | null {
    return [...this.items].find(([, k]) => k.item.uid === uid)?.[0] ?? null
  }

  /** What a listing says, and whether it may be believed about what it leaves out (never). */
  list(): Map<string, Kept> {
    this.asked++
    this.looks.push(this.now())
    const all = new Map(this.items)
    if (this.can.hidesDone)
      for (const [id, { item }] of this.items)
        if (item.kind === 'task' && item.status === 'completed') all.delete(id)
    if (this.can.listing === 'forgetful' && this.asked % 3 === 0)
      all.delete([...all.keys()][this.asked % Math.max(1, all.size)] ?? '')
    if (this.can.listing === 'late') {
      const late = this.shown
      this.shown = all
      return this.asked === 1 ? all : late
    }
    return all
  }
}
