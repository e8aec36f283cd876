import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto'

/** Credentials at rest: AES-256-GCM, a fresh nonce each time, the key outside the database. */
export function seal(plain: unknown, key: Buffer): string {
  const nonce = randomBytes(12)
  const cipher = createCipheriv('aes-256-gcm', key, nonce)
  const sealed = Buffer.concat([cipher.update(JSON.stringify(plain), 'utf8'), cipher.final()])
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64')
}

/** Throws when the text was sealed with another key or has been changed. */
export function unseal(sealed: string, key: Buffer): unknown {
  const bytes = Buffer.from(sealed, 'base64')
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
