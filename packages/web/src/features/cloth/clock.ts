/** `HH:MM` for what somebody typed as an hour of the day (`9`, `9:30`, `0930`), or null. */
export function clockOf(typed: string): string | null {
  const m = /^(\d{1,2})[:.]?(\d{2})?$/.exec(typed.trim())
  const [hour, minute] = [Number(m?.[1]), Number(m?.[2] ?? 0)]
  if (!m || hour > 23 || minute > 59) return null
  return `${String(hour).padStart(2, '0')}:${String(minute).padStart(2, '0')}`
}
