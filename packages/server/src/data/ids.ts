import { randomUUID } from 'node:crypto'

/**
 * A UUID that begins with the time (version 7, RFC 9562 §5.7). Rows made one after the other are neighbours in
 * their index, which makes large imports faster.
 */
export function newId(now = Date.now()): string {
  const time = now.toString(16).padStart(12, '0')
  return `${time.slice(0, 8)}-${time.slice(8)}-7${randomUUID().slice(15)}`
}
