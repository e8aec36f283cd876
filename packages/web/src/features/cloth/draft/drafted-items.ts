import type { DraftPiece, PieceOf, TeamTold } from '@loom/core/planning'
import { type ClothItem, whole } from '@loom/core/view'

/** A draft as the Cloth draws it: items that are nowhere but on this page. */

const PREFIX = 'draft '

export const isDrafted = (key: string): boolean => key.startsWith(PREFIX)
export const pieceKey = ({ id, fromMs }: Pick<DraftPiece, 'id' | 'fromMs'>): string =>
  `${PREFIX}${fromMs} ${id}`

/**
 * The piece that was meant, in a draft that was made anew: the one at that time, or what of the same task or
 * regular lies nearest to where it was. Null where nothing of it has a place any more.
 */
export function sameIn(was: PieceOf, pieces: readonly PieceOf[]): PieceOf | null {
  const apart = (p: PieceOf): number => Math.abs(p.fromMs - was.fromMs)
  const own = pieces.filter(p => (was.regular === null ? p.id === was.id : p.regular === was.regular))
  const [first, ...rest] = own
  if (!first) return null
  return rest.reduce((near, p) => (apart(p) < apart(near) ? p : near), first)
}

export interface DraftTerms {
  told: TeamTold
  /** Of the regulars, by their ids. */
  names: ReadonlyMap<string, string>
  /** The tasks that were drafted with, as they were then. */
  tasks: ReadonlyMap<string, ClothItem>
  /** Keys of blocks that are planned anew: the draft stands in their place. */
  anew: ReadonlySet<string>
}

function drafted(piece: PieceOf, of: ClothItem | undefined, { names }: DraftTerms): ClothItem {
  const place = { kind: 'timed' as const, startMs: piece.fromMs, endMs: piece.toMs }
  const plain = whole({
    key: pieceKey(piece),
    kind: 'block',
    title: names.get(piece.regular ?? '') ?? '',
    place,
    sources: [],
  })
  if (!of) return { ...plain, people: [piece.person] }
  const { title, sources, categories, due, overdue, priority, location } = of
  return {
    ...plain,
    title,
    sources,
    categories,
    due,
    overdue,
    priority,
    location,
    of: of.key,
    people: [piece.person],
  }
}

/** What is shown, with the draft in it. A task's drafted time is not counted a second time for its day. */
export function withDraft(items: readonly ClothItem[], terms: DraftTerms): ClothItem[] {
  const minutes = new Map<string, number>()
  for (const p of terms.told.pieces)
    minutes.set(p.id, (minutes.get(p.id) ?? 0) + (p.toMs - p.fromMs) / 60_000)
  const known = new Map(items.map(i => [i.key, i]))
  const { anew } = terms
  const held = new Map<string, number>()
  for (const i of items)
    if (anew.has(i.key) && i.of !== null && i.place.kind === 'timed')
      held.set(i.of, (held.get(i.of) ?? 0) + (i.place.endMs - i.place.startMs) / 60_000)
  return [
    ...items
      .filter(i => !anew.has(i.key) || (i.kind !== 'block' && i.kind !== 'event'))
      .map(item => (anew.has(item.key) ? { ...item, place: { kind: 'none' as const } } : item))
      .map(item => {
        const more = minutes.get(item.key)
        return more === undefined
          ? item
          : {
              ...item,
              blocks: { ...item.blocks, ahead: item.blocks.ahead + more - (held.get(item.key) ?? 0) },
            }
      }),
    ...terms.told.pieces.map(p => drafted(p, known.get(p.id) ?? terms.tasks.get(p.id), terms)),
  ]
}
