/** A link that people may follow (http, https, mailto); null for anything else, such as one that would run a script. */
export function safeLink(text: string): string | null {
  const trimmed = text.trim()
  if (!URL.canParse(trimmed)) return null
  return /^(https?|mailto):$/.test(new URL(trimmed).protocol) ? trimmed : null
}
