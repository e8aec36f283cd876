import { randomBytes } from 'node:crypto'

/**
 * A UUID that begins with the time (version 7, RFC 9562 §5.7): rows made one after the other lie beside each
 * other in their index, which makes an import of many a good deal quicker.
 */
export function newId(now = Date.now()): string {
  const bytes = randomBytes(16)
  bytes.writeUIntBE(now, 0, 6)
  bytes.writeUInt8(0x70 | (bytes.readUInt8(6) & 0x0f), 6)
  bytes.writeUInt8(0x80 | (bytes.readUInt8(8) & 0x3f), 8)
  const hex = bytes.toString('hex')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}
