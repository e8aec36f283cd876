import { minuteWords } from '../../../ui/telling.ts'
import { type ClothItem, durationWords, type HourRow } from '@loom/core/view'
import type { Held } from './drag.ts'

/** Where what is held would land in a row, and what that would do to the load of its day. */

interface Axis {
  /** Minutes after midnight. */
  from: number
  to: number
}
export const shareOf = (minutes: number, axis: Axis): string => `${(100 * minutes) / (axis.to - axis.from)}%`

export type Landing = { load: string; over: boolean } & (
  { kind: 'day' } | { kind: 'hour'; left: string; width: string; span: string }
)

/** What is held, for a row that draws something of it: where it lay, or where it would go. Other rows stay as they are. */
export function heldIn(held: Held | null, row: HourRow): Held | null {
  const target = held?.target
  if (!held || !target) return held
  if ('date' in target && target.date === row.date) return held
  const over = target.kind === 'batch' ? target.key : null
  const draws = (i: ClothItem): boolean => i.key === held.item.key || i.key === over
  return row.head.some(draws) || row.blocks.some(b => draws(b.item)) ? held : null
}

/** @param key the row's, beside its date */
export function landingIn(held: Held | null, row: HourRow, key: string, axis: Axis): Landing | null {
  const target = held?.target
  if (!held || (target?.kind !== 'hour' && target?.kind !== 'day')) return null
  if (target.date !== row.date || target.row !== key) return null
  const { item } = held
  const here = [...row.head, ...row.blocks.map(b => b.item)].find(i => i.key === item.key)
  const was = !here || held.copying ? 0 : here.place.kind === 'timed' ? held.usual : (item.estimate ?? 30)
  const adds = target.kind === 'hour' ? target.minutes : (item.estimate ?? 30)
  const committed = row.load.committed - was + adds
  const load = `${durationWords(committed)} of ${durationWords(row.load.capacity)}`
  const over = committed > row.load.capacity
  if (target.kind === 'day') return { kind: 'day', load, over }
  const what = held.copying ? (item.kind === 'event' ? 'copy · ' : 'further block · ') : ''
  return {
    kind: 'hour',
    left: shareOf(target.from - axis.from, axis),
    width: shareOf(target.minutes, axis),
    span: `${what}${minuteWords(target.from)}–${minuteWords(target.from + target.minutes)}`,
    load,
    over,
  }
}
