/** A random UUID (RFC 9562, version 4), also over plain http, where browsers have no `crypto.randomUUID`. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  const [version = 0, variant = 0] = [bytes[6], bytes[8]]
  bytes[6] = (version & 0x0f) | 0x40
  bytes[8] = (variant & 0x3f) | 0x80
  const hex = [...bytes].map(byte => byte.toString(16).padStart(2, '0')).join('')
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})/, '$1-$2-$3-$4-')
}
