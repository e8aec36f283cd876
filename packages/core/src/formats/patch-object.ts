import type { EventPatch } from '../items/items.ts'
import { patchSeries } from './series-edit.ts'
import { patchEvent } from '../ical/vevent.ts'

/** `text` with a change of its series, if there is one, and then of the event's own fields written into it. */
export function patchEventObject(text: string, { series, ...patch }: EventPatch, now: number): string {
  const changed = series ? patchSeries(text, series, now) : text
  return Object.keys(patch).length === 0 ? changed : patchEvent(changed, patch, now)
}
