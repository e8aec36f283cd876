import type { ClothItem, Event, Item, ItemSource } from '@loom/core'
import type { TieLine } from '../data/repositories/cloth.ts'
import type { Unseen } from './pairs.ts'

/**
 * What is read, taken apart into what hangs together: ties, the same thing in several lists, a task and its parts, a
 * series and its dates. How one component is drawn depends on nothing outside it, so it is drawn once for each sight of
 * it, and again only when something in it has changed.
 */

export interface Component<Drawn> extends Unseen {
  /** The series among its sources, with their dates in the days that were read. */
  series: readonly (readonly [ItemSource<Event>, readonly ClothItem[]])[]
  /** Those of its sources that are shown for themselves, and not only for what they are tied to. */
  shown: readonly string[]
  /** By what is seen of everything. */
  drawn: Map<string, Drawn>
}

class Sets {
  private readonly parent = new Map<string, string>()
  find(id: string): string {
    let root = id
    for (let up = this.parent.get(root); up !== undefined; up = this.parent.get(root)) root = up
    for (let at = id; at !== root;) {
      const up = this.parent.get(at) ?? root
      this.parent.set(at, root)
      at = up
    }
    return root
  }
  join(one: string, other: string): void {
    const [a, b] = [this.find(one), this.find(other)]
    if (a !== b) this.parent.set(b, a)
  }
}

/** Which sources hang together. */
function joined({ sources, ties }: Unseen): Sets {
  const sets = new Sets()
  for (const { a, b } of ties) if (a !== null && b !== null) sets.join(a, b)
  const first = new Map<string, string>()
  const same = (name: string, id: string): void => {
    const known = first.get(name)
    if (known === undefined) first.set(name, id)
    else sets.join(known, id)
  }
  for (const { id, item, collectionId, dateOf } of sources.values()) {
    same(`${item.kind} ${item.uid}`, id)
    if (item.kind === 'task') {
      same(`in ${collectionId} ${item.uid}`, id)
      if (item.parent) same(`in ${collectionId} ${item.parent}`, id)
    }
    if (dateOf) sets.join(dateOf.seriesId, id)
  }
  return sets
}

const isSameList = <T>(one: readonly T[], other: readonly T[], isSame: (x: T, y: T) => boolean): boolean => {
  if (one.length !== other.length) return false
  for (const [i, x] of one.entries()) {
    const y = other[i]
    if (y === undefined || !isSame(x, y)) return false
  }
  return true
}

interface Part {
  sources: Map<string, ItemSource<Item>>
  ties: TieLine[]
  conflicts: Set<string>
  series: (readonly [ItemSource<Event>, readonly ClothItem[]])[]
  shown: string[]
}

/**
 * @param before those of an earlier reading of the same days: what is as it was is the same object, drawn already
 */
export function componentsOf<Drawn>(
  found: Unseen,
  series: Component<Drawn>['series'],
  shown: readonly string[],
  before: ReadonlyMap<string, Component<Drawn>>,
): Map<string, Component<Drawn>> {
  const sets = joined(found)
  const parts = new Map<string, Part>()
  const partOf = (id: string): Part | undefined => parts.get(sets.find(id))
  for (const [id, source] of found.sources) {
    const root = sets.find(id)
    const part = parts.get(root) ?? {
      sources: new Map<string, ItemSource<Item>>(),
      ties: [],
      conflicts: new Set<string>(),
      series: [],
      shown: [],
    }
    parts.set(root, part)
    part.sources.set(id, source)
    if (found.conflicts.has(id)) part.conflicts.add(id)
  }
  for (const tie of found.ties) partOf(tie.a ?? tie.b ?? '')?.ties.push(tie)
  for (const one of series) partOf(one[0].id)?.series.push(one)
  for (const id of shown) partOf(id)?.shown.push(id)
  const all = new Map<string, Component<Drawn>>()
  for (const part of parts.values()) {
    const [first = ''] = part.sources.keys()
    const known = before.get(first)
    all.set(
      first,
      known && isAsBefore(known, part) ? known : { ...part, read: part.sources, drawn: new Map() },
    )
  }
  return all
}

function isAsBefore(known: Component<unknown>, part: Part): boolean {
  if (known.sources.size !== part.sources.size || known.ties.length !== part.ties.length) return false
  for (const [id, source] of part.sources) if (known.sources.get(id) !== source) return false
  if (known.conflicts.size !== part.conflicts.size) return false
  for (const id of part.conflicts) if (!known.conflicts.has(id)) return false
  return (
    isSameList(known.shown, part.shown, (x, y) => x === y) &&
    isSameList(known.series, part.series, (x, y) => x[1] === y[1]) &&
    isSameList(known.ties, part.ties, isSameTie)
  )
}

const isSameTie = (x: TieLine, y: TieLine): boolean =>
  x.id === y.id && x.a === y.a && x.b === y.b && x.role === y.role && x.memory === y.memory
