import type { Making, PersonSettings, When } from '@loom/core/view'

/** Further time for a task: where it is kept, and what others see of it there. */

export interface Kept {
  /** A calendar; null: only here, in no calendar. */
  into: string | null
  busy: boolean
  /** With the task's title; else private. */
  named: boolean
}

type Settings = Pick<PersonSettings, 'blocksInto' | 'blocksBusy' | 'blocksNamed'>
/** As this person keeps it when nothing else is said. */
export const usualKept = (settings: Settings): Kept => ({
  into: settings.blocksInto,
  busy: settings.blocksBusy,
  named: settings.blocksNamed,
})

/** `in Amber Loom only`, or `in Garden team, busy, with its title`. */
export function keptWords({ into, busy, named }: Kept, nameOf: (id: string) => string): string {
  if (into === null) return 'in Amber Loom only'
  return `in ${nameOf(into)}, ${busy ? 'busy' : 'free'}, ${named ? 'with its title' : 'private'}`
}

/** What a key says while further time is held: kept elsewhere, free or busy, with its title or without. */
export function keptBy(key: string, kept: Kept, calendars: readonly string[]): Kept {
  switch (key.toLowerCase()) {
    case 'k': {
      const places = [null, ...calendars]
      return { ...kept, into: places[(places.indexOf(kept.into) + 1) % places.length] ?? null }
    }
    case 'f':
      return kept.into === null ? kept : { ...kept, busy: !kept.busy }
    case 'v':
      return kept.into === null ? kept : { ...kept, named: !kept.named }
    default:
      return kept
  }
}

const DAY_MINUTES = 1440

export const blockMaking = (task: string, start: When, minutes: number, kept: Kept) =>
  ({
    what: 'block',
    task,
    title: null,
    start,
    minutes: Math.max(5, Math.min(DAY_MINUTES, minutes)),
    into: kept.into,
    said:
      kept.into === null
        ? {}
        : { transparency: kept.busy ? 'opaque' : 'transparent', class: kept.named ? 'public' : 'private' },
  }) satisfies Making
