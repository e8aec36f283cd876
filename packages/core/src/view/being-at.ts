import type { ClothItem } from './cloth-item.ts'

/** What somebody is at now, as others may be told: never what it is about. */

export type BeingAt = { kind: 'meeting' | 'break' | 'focus'; untilMs: number }

export interface AtNow {
  is: BeingAt | null
  /** When it may be otherwise, epoch ms; null where nothing is to come. */
  nextMs: number | null
}

/** @param focusUntilMs null where nobody is to be left alone */
export function beingAt(
  items: readonly ClothItem[],
  { me, now, focusUntilMs }: { me: string; now: number; focusUntilMs: number | null },
): AtNow {
  const taken = items.flatMap(({ place, people, kind, busy, done, cancelled, leftOut, eventKind }) => {
    const isMine = people.length === 0 || people.includes(me)
    const isTold = kind === 'event' && !done && !cancelled && !leftOut && eventKind !== 'travel'
    if (place.kind !== 'timed' || !isMine || !isTold || !(busy || eventKind === 'break')) return []
    const { startMs, endMs } = place
    return [{ is: eventKind === 'break' ? ('break' as const) : ('meeting' as const), startMs, endMs }]
  })
  const present = taken
    .filter(t => t.startMs <= now && now < t.endMs)
    .sort((x, y) => Number(y.is === 'meeting') - Number(x.is === 'meeting') || x.endMs - y.endMs)
  const isFocus = focusUntilMs !== null && focusUntilMs > now
  const [first] = present
  const is: BeingAt | null = first
    ? { kind: first.is, untilMs: first.endMs }
    : isFocus
      ? { kind: 'focus', untilMs: focusUntilMs }
      : null
  const changes = [
    ...taken.flatMap(t => [t.startMs, t.endMs]),
    ...(focusUntilMs === null ? [] : [focusUntilMs]),
  ].filter(ms => ms > now)
  return { is, nextMs: changes.length === 0 ? null : Math.min(...changes) }
}

export const BEING_WORDS: Record<BeingAt['kind'], string> = {
  meeting: 'In a meeting',
  break: 'On a break',
  focus: 'In focus, please write later',
}
