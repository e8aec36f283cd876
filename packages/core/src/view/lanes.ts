import type { ClothItem } from './cloth-item.ts'

/** Items of one row side by side: which share its height, and how far a short one's title may run. */

export interface Block {
  item: ClothItem
  /** Wall-clock minutes after midnight, clipped to the day. */
  from: number
  to: number
  /** Whether it began the day before, or goes on the day after. */
  clipped: { start: boolean; end: boolean }
  lane: number
  /** How many lanes its group of overlapping blocks needs. */
  lanes: number
  /** The minute up to which nothing else lies to its right, for the title of a short block. */
  freeTo: number
}

export type FlatBlock = Omit<Block, 'lane' | 'lanes' | 'freeTo'>

/** What titles need where they are drawn, minutes of the axis. */
export interface TitleRoom {
  /** With less than this, no word of it can be read. */
  least: number
  /** With so much it can be read. */
  enough: number
  /** How many lanes a row may be parted into for the sake of titles. */
  lanes: number
}

const DAY = 1440

/** Blocks that overlap share the row's height; each goes into the first lane that is free. */
export function intoLanes(flat: readonly FlatBlock[]): Block[] {
  return laid(flat, b => b.to, 0)
}

/**
 * The same for short blocks in close succession, whose titles could not be read. They go down in steps, each with
 * space for its title beside it.
 */
export function inSteps(blocks: readonly Block[], room: TitleRoom): readonly Block[] {
  const cramped = new Set(
    blocks.filter(b => Math.max(b.to, b.freeTo) - b.from < room.least).map(b => b.item.key),
  )
  if (cramped.size === 0) return blocks
  return laid(blocks, b => (cramped.has(b.item.key) ? b.from + room.enough : b.to), room.lanes)
}

/** `until`: up to where a block would like its lane to be free, as long as that takes no more than `most` lanes. */
function laid(flat: readonly FlatBlock[], until: (b: FlatBlock) => number, most: number): Block[] {
  const sorted = [...flat].sort(
    (x, y) => x.from - y.from || y.to - x.to || (x.item.key < y.item.key ? -1 : 1),
  )
  const blocks: Block[] = []
  let group: Block[] = []
  let lanes: { end: number; until: number }[] = []
  const close = (): void => {
    for (const b of group) b.lanes = lanes.length
    blocks.push(...group)
    group = []
    lanes = []
  }
  for (const b of sorted) {
    if (lanes.every(l => l.until <= b.from)) close()
    // Something without length still takes a moment's place.
    const end = Math.max(b.to, b.from + 1)
    const lane = laneFor(b.from, lanes, most)
    lanes[lane] = { end, until: Math.max(end, until(b)) }
    group.push({ ...b, lane, lanes: 1, freeTo: DAY })
  }
  close()
  // From the right, so that each block need only look at what begins before the next free end.
  for (const [i, b] of blocks.entries()) {
    const share = (x: Block): [number, number] => [x.lane / x.lanes, (x.lane + 1) / x.lanes]
    const [top, bottom] = share(b)
    for (let k = i + 1; k < blocks.length; k++) {
      const x = blocks[k]
      if (!x || x.from < b.to || share(x)[0] >= bottom || share(x)[1] <= top) continue
      b.freeTo = Math.min(DAY, x.from)
      break
    }
  }
  return blocks
}

/**
 * The first lane that is free to the end of the title; else a new lane, if allowed; else the one that has been
 * free longest.
 */
function laneFor(from: number, lanes: readonly { end: number; until: number }[], most: number): number {
  const free = lanes.findIndex(l => l.until <= from)
  if (free !== -1 || lanes.length < most) return free === -1 ? lanes.length : free
  let best = -1
  for (const [i, l] of lanes.entries())
    if (l.end <= from && l.until < (lanes[best]?.until ?? Infinity)) best = i
  return best === -1 ? lanes.length : best
}
