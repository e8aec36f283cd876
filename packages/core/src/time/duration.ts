/** Durations as RFC 5545 §3.3.6 and RFC 8984 §1.4.6 write them. */

const DURATION = /^\+?P(?:(\d+)W)?(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)(?:\.\d+)?S)?)?$/

/** Whole days (weeks among them) and the seconds beyond; null for what is no duration, or a negative one. */
export function parseDuration(text: string): { days: number; seconds: number } | null {
  const m = DURATION.exec(text.trim())
  if (!m || /[PT]$/.test(text.trim())) return null
  const [w = 0, d = 0, h = 0, min = 0, s = 0] = m.slice(1).map(x => Number(x) || 0)
  return { days: w * 7 + d, seconds: (h * 60 + min) * 60 + s }
}

/** Minutes, a day taken as 24 hours; null for what is no duration. */
export function durationMinutes(text: string): number | null {
  const parsed = parseDuration(text)
  return parsed && parsed.days * 1440 + parsed.seconds / 60
}

/** Exact time, never days: a day is not always 24 hours. */
export function exactDuration(minutes: number): string {
  const seconds = Math.round(minutes * 60)
  return seconds % 60 === 0 ? `PT${seconds / 60}M` : `PT${Math.floor(seconds / 60)}M${seconds % 60}S`
}
