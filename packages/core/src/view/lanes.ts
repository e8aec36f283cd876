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

const DAY = 1440

/** Blocks that overlap share the row's height; each goes into the first lane that is free. */
export function intoLanes(flat: readonly FlatBlock[]): Block[] {
  const sorted = [...flat].sort(
    (x, y) => x.from - y.from || y.to - x.to || (x.item.key < y.item.key ? -1 : 1),
  )
  const blocks: Block[] = []
  let group: Block[] = []
  let laneEnds: number[] = []
  const close = (): void => {
    for (const b of group) b.lanes = laneEnds.length
    blocks.push(...group)
    group = []
    laneEnds = []
  }
  for (const b of sorted) {
    if (laneEnds.every(end => end <= b.from)) close()
    // Something without length still takes a moment's place.
    const end = Math.max(b.to, b.from + 1)
    const free = laneEnds.findIndex(e => e <= b.from)
    const lane = free === -1 ? laneEnds.length : free
    laneEnds[lane] = end
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
