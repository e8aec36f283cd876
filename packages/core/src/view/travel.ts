import { z } from 'zod'
import { MINUTE } from '../time/when.ts'
import type { ClothItem } from './cloth-item.ts'
import { whole } from './slim.ts'

/**
 * The way to appointments with a place, and between them: told by how far each place is from one's base, set by hand.
 * It follows from its appointments and moves with them; it is written nowhere.
 */

const Name = z.string().trim().min(1).max(200)
const Minutes = z.number().int().min(1).max(600)

export const Travel = z
  .object({
    /** Minutes from one's base. The place of an event is this one where its words are in it. */
    places: z.array(z.object({ name: Name, minutes: Minutes })).max(100),
    /** Straight from one to the other, either way. */
    between: z.array(z.object({ one: Name, other: Name, minutes: Minutes })).max(200),
  })
  .refine(
    t => new Set(t.places.map(p => plain(p.name))).size === t.places.length,
    'Two places have the same name.',
  )
export type Travel = z.infer<typeof Travel>

export const noTravel: Travel = { places: [], between: [] }

const plain = (text: string): string => text.trim().normalize('NFC').toLowerCase()

/** A stretch of the way. Epoch ms. */
export interface Way {
  fromMs: number
  toMs: number
  /** Where it ends; null: at one's base. */
  to: string | null
  /** The appointment it belongs to, by key. */
  of: string
}

export interface WayTooShort {
  /** Between these two there is less time than the way takes. */
  before: string
  after: string
  /** Minutes. */
  gap: number
  needs: number
}

export interface Travelled {
  ways: Way[]
  tooShort: WayTooShort[]
}

/** One’s presence at a place that is known. Epoch ms. */
export interface Stay {
  key: string
  place: Travel['places'][number]
  fromMs: number
  toMs: number
}

/** Which place words tell of; the longest name that is in them. */
export function placeOf(location: string, { places }: Travel): Travel['places'][number] | null {
  if (location === '') return null
  const words = plain(location)
  const [found] = places
    .filter(p => words.includes(plain(p.name)))
    .sort((x, y) => y.name.length - x.name.length || (x.name < y.name ? -1 : 1))
  return found ?? null
}

/** Whoever comes home between two must have so much time there, else they stay out: minutes. */
const LEAST_AT_BASE = 1
/** After so long one has gone home, wherever one was: minutes. */
const OVERNIGHT = 10 * 60

/** @param items those of one person; what was declined or is free needs no way */
export function travelled(items: readonly ClothItem[], travel: Travel): Travelled {
  const stays = staysOf(items, travel)
  const ways: Way[] = []
  const tooShort: WayTooShort[] = []
  const arrive = (s: Stay, minutes: number): void =>
    void ways.push({ fromMs: s.fromMs - minutes * MINUTE, toMs: s.fromMs, to: s.place.name, of: s.key })
  const leave = (s: Stay, minutes: number): void =>
    void ways.push({ fromMs: s.toMs, toMs: s.toMs + minutes * MINUTE, to: null, of: s.key })
  for (const [at, stay] of stays.entries()) {
    const before = stays[at - 1]
    if (!before) {
      arrive(stay, stay.place.minutes)
      continue
    }
    const gap = Math.max(0, Math.floor((stay.fromMs - before.toMs) / MINUTE))
    const viaBase = before.place.minutes + stay.place.minutes
    const isSame = before.place === stay.place
    const direct = isSame ? 0 : straight(before.place, stay.place, travel)
    const needs = Math.min(direct ?? viaBase, viaBase)
    if (gap >= OVERNIGHT || (gap >= viaBase + LEAST_AT_BASE && needs === viaBase)) {
      leave(before, before.place.minutes)
      arrive(stay, stay.place.minutes)
    } else if (needs > gap) {
      tooShort.push({ before: before.key, after: stay.key, gap, needs })
      // The time there is, is on the way.
      if (gap > 0) arrive(stay, gap)
    } else if (needs > 0) arrive(stay, needs)
  }
  const last = stays.at(-1)
  if (last) leave(last, last.place.minutes)
  return { ways, tooShort }
}

function straight(x: Stay['place'], y: Stay['place'], { between }: Travel): number | null {
  const is = (name: string, p: Stay['place']): boolean => plain(name) === plain(p.name)
  const found = between.find(b => (is(b.one, x) && is(b.other, y)) || (is(b.one, y) && is(b.other, x)))
  return found?.minutes ?? null
}

/** Where it is done: what is worked on in a block is done where its task says. */
export const placeWords = (item: ClothItem, of?: ClothItem): string => item.location || (of?.location ?? '')

/** In the order of the day; what lies within another at the same time does not count twice. */
export function staysOf(items: readonly ClothItem[], travel: Travel): Stay[] {
  const known = new Map(items.map(i => [i.key, i]))
  const stays = items
    .flatMap((item): Stay[] => {
      const place = placeOf(placeWords(item, known.get(item.of ?? '')), travel)
      const isStay =
        place !== null &&
        item.place.kind === 'timed' &&
        item.place.endMs > item.place.startMs &&
        item.eventKind !== 'travel' &&
        item.busy &&
        !item.cancelled &&
        !item.leftOut &&
        !item.atDeadline
      return isStay && item.place.kind === 'timed'
        ? [{ key: item.key, place, fromMs: item.place.startMs, toMs: item.place.endMs }]
        : []
    })
    .sort((x, y) => x.fromMs - y.fromMs || y.toMs - x.toMs || (x.key < y.key ? -1 : 1))
  let until = -Infinity
  return stays.filter(s => {
    const isWithin = s.toMs <= until
    until = Math.max(until, s.toMs)
    return !isWithin
  })
}

const PREFIX = 'travel '
export const isWay = (key: string): boolean => key.startsWith(PREFIX)
/** The appointment that a way belongs to. */
export const wayOf = (key: string): string => key.slice(key.indexOf(' ', PREFIX.length) + 1)

/** Of a person among others. */
export interface WayOf extends Way {
  person: string
}
/** With the ways of others, as they are told. */
export const withWays = (items: readonly ClothItem[], ways: readonly WayOf[]): ClothItem[] => [
  ...items,
  ...ways.map(w => wayItem(w, w.person)),
]

/** The items with the ways of one person among them: they take time, and can only be changed by changing their appointment. */
export function withTravel(items: readonly ClothItem[], travel: Travel, me: string): ClothItem[] {
  if (travel.places.length === 0) return [...items]
  const mine = items.filter(i => i.people.includes(me))
  return [...items, ...travelled(mine, travel).ways.map(w => wayItem(w, me))]
}

const wayItem = ({ fromMs, toMs, to, of }: Way, person: string): ClothItem => ({
  ...whole({
    // Two who go there together go each on their way.
    key: `${PREFIX}${fromMs}-${person} ${of}`,
    kind: 'event',
    title: to === null ? 'Way back' : `To ${to}`,
    place: { kind: 'timed', startMs: fromMs, endMs: toMs },
    sources: [],
  }),
  people: [person],
  movable: false,
  fixedBecause: 'It follows from its appointment.',
  onlyLook: true,
  eventKind: 'travel',
})
