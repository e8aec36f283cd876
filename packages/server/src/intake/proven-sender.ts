/**
 * Whether a mail comes from whom it says (RFC 8601): as the mail server in front of us wrote into its topmost
 * `Authentication-Results`, which it takes out of what comes from outside. Without one that is trusted, nobody is proven.
 */

/** @param headers as they came, the topmost first, in small letters and unfolded */
export function isProven(
  headers: readonly { key: string; line: string }[],
  from: string,
  trusted: string | null,
): boolean {
  if (trusted === null) return false
  const top = headers.find(h => h.key === 'authentication-results')
  const [server = '', ...results] = (top?.line ?? '')
    .replace(/^authentication-results:/i, '')
    // Comments may say anything.
    .replace(/\([^()]*\)/g, ' ')
    .replace(/\s+/g, ' ')
    .split(';')
    .map(part => part.trim().toLowerCase())
  if (server.split(' ')[0] !== trusted.toLowerCase()) return false
  const domain = from.toLowerCase().split('@')[1] ?? ''
  const says = (method: string, property: string): boolean =>
    domain !== '' &&
    results.some(r => {
      const words = r.split(' ')
      return words[0] === `${method}=pass` && words.includes(`${property}=${domain}`)
    })
  return says('dmarc', 'header.from') || says('dkim', 'header.d')
}
