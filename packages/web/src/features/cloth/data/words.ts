import { clockWords } from '../../../ui/telling.ts'
import {
  type ClothItem,
  dayWords,
  durationWords,
  type Edit,
  instantDayWords,
  lengthOf,
  type Standing,
} from '@loom/core/view'

/** What happened and where things are, in the interface's words. */

interface Terms {
  zone: string
  defaultMinutes: number
}

export function editWords(item: ClothItem, edit: Edit, d: Terms): string {
  const { title } = item
  switch (edit.do) {
    case 'complete':
      return item.recurring ? `${title}: this round is done. The next one follows.` : `${title}: done.`
    case 'reopen':
      return `${title}: open again.`
    case 'cancel':
      return `${title}: cancelled.`
    case 'rename':
      return `Renamed to ${title}.`
    case 'give':
    case 'say':
    case 'kind':
      return `${title}: changed.`
    case 'unplace':
      return `${title}: back on the shelf.`
    case 'any-day':
      return `${title}: any day in the week of ${dayWords(edit.week)}.`
    case 'put-by':
      if (edit.until === null) return `${title}: back on the shelf.`
      return edit.until === '' ? `${title}: put by.` : `${title}: put by until ${dayWords(edit.until)}.`
    case 'leave-out':
      return edit.out ? `${title}: left out of your plan.` : `${title}: in your plan again.`
    case 'lengthen':
      return `${title}: now ${durationWords(lengthOf(item, d.defaultMinutes))}.`
    case 'estimate':
      return edit.minutes === null
        ? `${title}: no estimate.`
        : `${title}: takes ${durationWords(edit.minutes)}.`
    case 'spend':
      return edit.spent ? `${title}: this time is worked.` : `${title}: this time is still ahead.`
    case 'keep-private':
      return edit.private
        ? `${title}: kept private. Colleagues see only that the time is taken.`
        : `${title}: colleagues see what its list shows them.`
    case 'invite': {
      const names = (all: readonly { name: string; email: string }[]): string =>
        all.map(g => g.name || g.email).join(', ')
      return edit.add.length > 0
        ? `${title}: ${names(edit.add)} invited.`
        : `${title}: ${names(edit.drop)} no longer invited.`
    }
    case 'note-answers':
      return `${title}: noted.`
    case 'fix':
      return edit.movable ? `${title}: flexible.` : `${title}: fixed.`
    case 'delete':
      return `${title}: deleted.`
    case 'restore':
    case 'series-back':
      return `${title}: back as it was.`
    case 'place':
      return `${title}: ${placeWords(item, d.zone)}.`
  }
}

/** Of two who move the same at once, the later hears of the other; taking it back leads to there. */
export function meanwhileWords(
  item: ClothItem,
  meanwhile: (Standing & { who: string | null }) | null,
  { zone }: Terms,
): string {
  if (!meanwhile) return ''
  const there = placeWords({ ...item, ...meanwhile }, zone)
  return ` Meanwhile ${meanwhile.who ?? 'somebody'} had moved it: ${there}.`
}

/** What deleting an item means, beyond the page itself. */
export function deletingWords(items: readonly ClothItem[], nameOf: (source: string) => string): string {
  const [item] = items
  if (!item) return ''
  if (items.length > 1)
    return 'Each is deleted where it lives, for everybody, and rules decide about what is tied to it. Time that was only reserved is given back.'
  const [first = '', second = ''] = item.sources
  switch (item.kind) {
    case 'tied':
      return `The task is deleted in ${nameOf(first)}. The rule that ties it decides about its event in ${nameOf(second)}.`
    case 'block':
      return 'This time is given back. The task stays as it is.'
    case 'batch':
      return 'The block is given back. Its tasks stay where they are.'
    case 'task':
    case 'event':
      return `It is deleted in ${nameOf(first)}, for everybody.`
  }
}

export function placeWords(item: ClothItem, zone: string): string {
  const { place } = item
  switch (place.kind) {
    case 'timed':
      return `${instantDayWords(place.startMs, zone)}, ${clockWords(place.startMs, zone)}–${clockWords(place.endMs, zone)}`
    case 'day':
      return `${dayWords(place.date)}, no time set`
    case 'all-day':
      return `${dayWords(place.from)}, all day`
    case 'none':
      if (item.putBy !== null) return item.putBy === '' ? 'put by' : `put by until ${dayWords(item.putBy)}`
      return item.week ? `any day, week of ${dayWords(item.week)}` : 'on the shelf'
  }
}

export const KIND_WORDS: Record<ClothItem['kind'], string> = {
  event: 'event',
  task: 'task',
  tied: 'task and event',
  block: 'work block',
  batch: 'batch',
}

/** A task that one may only look at can be asked for on behalf of somebody. */
export const mayBeAsked = (item: ClothItem): boolean =>
  item.onlyLook && !item.done && (item.kind === 'task' || item.kind === 'tied')
