declare module 'http_ece' {
  import type { ECDH } from 'node:crypto'
  /** RFC 8188 with the keys of RFC 8291. Throws where it cannot be read. */
  export function decrypt(
    body: Buffer,
    keys: { version: 'aes128gcm'; privateKey: ECDH; authSecret: string },
  ): Buffer
}
