import { isKnownZone } from '@loom/core/view'

/** Dates and hours as the guest's browser writes them. */

/** The browser's, where it says one that is known. */
export function ownZone(): string {
  const own = Intl.DateTimeFormat().resolvedOptions().timeZone
  return own && isKnownZone(own) && isOfBrowser(own) ? own : 'UTC'
}

/** A zone that this browser does not know is told in UTC. */
export function isOfBrowser(zone: string): boolean {
  try {
    new Intl.DateTimeFormat(undefined, { timeZone: zone })
    return true
  } catch {
    return false
  }
}

const formatted = (options: Intl.DateTimeFormatOptions) => {
  const known = new Map<string, Intl.DateTimeFormat>()
  return (ms: number, zone: string): string => {
    const format =
      known.get(zone) ??
      new Intl.DateTimeFormat(undefined, { ...options, timeZone: isOfBrowser(zone) ? zone : 'UTC' })
    known.set(zone, format)
    return format.format(ms)
  }
}
export const dayWord = formatted({ weekday: 'short', day: 'numeric', month: 'short' })
export const longDayWord = formatted({ weekday: 'long', day: 'numeric', month: 'long' })
export const hourWord = formatted({ hour: 'numeric', minute: '2-digit' })

export const zoneName = (zone: string): string => zone.replaceAll('_', ' ')
export const placeOfZone = (zone: string): string => zoneName(zone).split('/').at(-1) ?? zone

function offsetMinutes(ms: number, zone: string): number {
  const parts = Object.fromEntries(
    new Intl.DateTimeFormat('en-GB', {
      timeZone: isOfBrowser(zone) ? zone : 'UTC',
      hourCycle: 'h23',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
    })
      .formatToParts(ms)
      .map(p => [p.type, p.value]),
  )
  const wall = Date.parse(`${parts.year}-${parts.month}-${parts.day}T${parts.hour}:${parts.minute}:00Z`)
  return Math.round((wall - Math.floor(ms / 60_000) * 60_000) / 60_000)
}

/** `5 h 45 ahead of Dublin`; '' where both are the same. */
export function aheadWords(ms: number, zone: string, other: string): string {
  const minutes = offsetMinutes(ms, zone) - offsetMinutes(ms, other)
  if (minutes === 0) return ''
  const [h, m] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60]
  const much = [h > 0 ? `${h} h` : '', m > 0 ? `${m}${h > 0 ? '' : ' min'}` : ''].filter(Boolean).join(' ')
  return `${much} ${minutes > 0 ? 'ahead of' : 'behind'} ${placeOfZone(other)}`
}
