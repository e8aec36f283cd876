/** `HH:MM` for an hour of the day as typed (`9`, `9:30`, `0930`, `2:30 pm`), or null. */
export function clockOf(typed: string): string | null {
  const m = /^(\d{1,2})[:.]?(\d{2})?\s*([ap]m?)?$/i.exec(typed.trim())
  const [typedHour, minute] = [Number(m?.[1]), Number(m?.[2] ?? 0)]
  if (!m || minute > 59) return null
  const half = m[3]?.[0]?.toLowerCase()
  if (half && (typedHour < 1 || typedHour > 12)) return null
  const hour = half ? (typedHour % 12) + (half === 'p' ? 12 : 0) : typedHour
  if (hour > 23) return null
  return `${String(hour).padStart(2, '0')}:${String(minute).padStart(2, '0')}`
}

/** Minutes since midnight for an hour as typed; `24:00` is the end of the day. Null where it is none. */
export function minuteOf(typed: string): number | null {
  if (typed.trim() === '24:00') return 1440
  const found = clockOf(typed)
  return found === null ? null : Number(found.slice(0, 2)) * 60 + Number(found.slice(3))
}
