import type { Item, ItemPatch } from '../../items/items.ts'
import type { Field } from '../model/settings.ts'
import type { BothSides, FieldValue, Side } from '../model/types.ts'

/**
 * How one field of an item on side a and one on side b stand for each other. Each side keeps its own raw
 * value; a lens only says what the other side should be, given what it is now. Two laws are tested, for
 * either direction:
 *   put(b, put(a, x, y), x) = x    what was written does not come back as an edit;
 *   put(a, put(b, y, x), y) = y    what was cut or rounded does not destroy what it was cut from.
 */
export interface Lens {
  field: Field
  /** The canonical properties the raw value is read from. */
  props: Record<Side, readonly string[]>
  /** Those of them in which people edit this field; the others only add to what is written. */
  edited: Record<Side, readonly string[]>
  read(side: Side, item: Item, base: FieldValue | undefined): FieldValue
  /** Whether two raw values of a side do not differ by an edit of this field. */
  same(side: Side, x: FieldValue, y: FieldValue): boolean
  /** What the side opposite to `from` should be; `other` is what it is now, null for something new. */
  put(from: Side, value: FieldValue, other: FieldValue | null, base: BothSides | undefined): Put
  /** Where two edits do not contradict each other: what side a should be with both of them; else null. */
  join?(a: FieldValue, b: FieldValue, base: BothSides): FieldValue | null
  /** What else belongs to a side's own edit, such as showing an event free once it is marked. */
  tidy?(side: Side, value: FieldValue, base: FieldValue): FieldValue
  /**
   * Side b's edit in today's words, if the words around it have changed since the last agreement; `a` is its value
   * on side a.
   */
  reword?(b: FieldValue, a: FieldValue, base: BothSides): FieldValue
  /** `patch` with `value` written into it, for an item that is `present` now. */
  patch(side: Side, value: FieldValue, present: Item | null, patch: ItemPatch): ItemPatch
}

export type Put<T = FieldValue> =
  | { kind: 'value'; value: T }
  /** The counterpart should not exist. */
  | { kind: 'absent'; reason: 'no-hour' | 'no-date' }
  /** Only a person can say. `insisted`: what it is where they say that this side counts all the same. */
  | { kind: 'held'; reason: string; insisted: T }

export const value = <T>(v: T): Put<T> => ({ kind: 'value', value: v })
export const sameValue = (x: FieldValue, y: FieldValue): boolean =>
  x === y || JSON.stringify(x) === JSON.stringify(y)

/**
 * Marks a base whose words the edited rule has not yet written there. No reading equals it, so its side counts as
 * edited. If the write fails, the next plan asks for it again.
 */
export const UNSETTLED: FieldValue = { unsettled: true }
// Asked of every field of every pair: no comparing of texts here.
const isSettled = (raw: FieldValue): boolean =>
  typeof raw !== 'object' || raw === null || !('unsettled' in raw)

/** How one side reads and writes a field. */
export interface Facet<T> {
  props: readonly string[]
  /** All of `props` unless it says so. */
  edited?: readonly string[]
  read(item: Item, base: T | undefined): T
  same?(x: T, y: T): boolean
  patch(value: T, present: Item | null, patch: ItemPatch): ItemPatch
  tidy?(value: T, base: T): T
}

/** What the two last agreed on; of a side that is not settled, nothing. */
export interface Agreed<A, B> {
  a: A | undefined
  b: B | undefined
}

/** Joins two facets by what they are to each other; the raw types are the facets' own affair from here on. */
export function lens<A, B>(of: {
  field: Field
  a: Facet<A>
  b: Facet<B>
  forth(a: A, b: B | null, base: Agreed<A, B> | undefined): Put<B>
  back(b: B, a: A | null, base: Agreed<A, B> | undefined): Put<A>
  join?(a: A, b: B, base: { a: A; b: B }): A | null
  reword?(b: B, a: A, base: Agreed<A, B>): B
}): Lens {
  // A lens is only ever given back what it has read itself.
  const facet = (side: Side): Facet<FieldValue> => of[side] as Facet<FieldValue>
  const own = (base: BothSides | undefined): Agreed<A, B> | undefined =>
    base && {
      a: isSettled(base.a) ? (base.a as A) : undefined,
      b: isSettled(base.b) ? (base.b as B) : undefined,
    }
  const { join, reword } = of
  return {
    field: of.field,
    props: { a: of.a.props, b: of.b.props },
    edited: { a: of.a.edited ?? of.a.props, b: of.b.edited ?? of.b.props },
    read: (side, item, base) => facet(side).read(item, isSettled(base) ? base : undefined),
    same: (side, x, y) =>
      isSettled(x) && isSettled(y) ? (facet(side).same?.(x, y) ?? sameValue(x, y)) : sameValue(x, y),
    put: (from, v, other, base) =>
      from === 'a'
        ? of.forth(v as A, other as B | null, own(base))
        : of.back(v as B, other as A | null, own(base)),
    patch: (side, v, present, patch) => facet(side).patch(v, present, patch),
    tidy: (side, v, base) => (isSettled(base) ? facet(side).tidy?.(v, base) : null) ?? v,
    ...(reword && {
      reword: (b: FieldValue, a: FieldValue, base: BothSides) =>
        reword(b as B, a as A, own(base) as Agreed<A, B>),
    }),
    ...(join && {
      join: (a: FieldValue, b: FieldValue, base: BothSides) => {
        const settled = isSettled(base.a) && isSettled(base.b)
        return settled ? join(a as A, b as B, base as { a: A; b: B }) : null
      },
    }),
  }
}

/** A field that is the same value on both sides. */
export const plainLens = <T>(field: Field, facet: Facet<T>, join?: (a: T, b: T, base: T) => T | null): Lens =>
  lens<T, T>({
    field,
    a: facet,
    b: facet,
    forth: value,
    back: value,
    ...(join && { join: (a: T, b: T, base: { a: T; b: T }) => join(a, b, base.a) }),
  })
