import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'

/** The key that values are sealed with, outside the database; and the one before it, by which they may still be. */
export interface Secrets {
  key: Buffer
  old: Buffer | null
}

/** Credentials at rest: AES-256-GCM, a fresh nonce each time. */
export function seal(plain: unknown, { key }: Secrets): string {
  const nonce = randomBytes(12)
  const cipher = createCipheriv('aes-256-gcm', key, nonce)
  const sealed = Buffer.concat([cipher.update(JSON.stringify(plain), 'utf8'), cipher.final()])
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64')
}

/** Throws when the text was sealed with neither key, or has been changed. */
export function unseal(sealed: string, { key, old }: Secrets): unknown {
  const bytes = Buffer.from(sealed, 'base64')
  try {
    return opened(bytes, key)
  } catch (error) {
    if (!old) throw error
    return opened(bytes, old)
  }
}

/** The text sealed with the present key, where it was with the old one; null where nothing is to be done. */
export function resealed(sealed: string, { key, old }: Secrets): string | null {
  if (!old) return null
  try {
    opened(Buffer.from(sealed, 'base64'), key)
    return null
  } catch {
    return seal(opened(Buffer.from(sealed, 'base64'), old), { key, old })
  }
}

function opened(bytes: Buffer, key: Buffer): unknown {
  const decipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, 12))
  decipher.setAuthTag(bytes.subarray(12, 28))
  const plain = Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()])
  return JSON.parse(plain.toString('utf8'))
}

export const newToken = (): string => randomBytes(32).toString('hex')
export const hashOf = (text: string): string => createHash('sha256').update(text).digest('hex')

/** A UUID-shaped id that is the same for the same key. */
export function idFor(key: string): string {
  const h = hashOf(key)
  return `${h.slice(0, 8)}-${h.slice(8, 12)}-5${h.slice(13, 16)}-a${h.slice(17, 20)}-${h.slice(20, 32)}`
}
