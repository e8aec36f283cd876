import { createECDH, createPublicKey, randomBytes, verify } from 'node:crypto'
import { Hono } from 'hono'
import { decrypt } from 'http_ece'

/**
 * A push service with devices (RFC 8030): each has an address of its own, takes what only it can read (RFC 8291), and
 * asks for the sender's proof (RFC 8292). A device can be off for good, slow for ever, or busy.
 */

type Manner = 'well' | 'gone' | 'silent' | 'busy'
interface Message {
  /** As it was decrypted; null where it could not be. */
  told: unknown
  topic: string | null
  ttl: number
  urgency: string | null
}
interface Device {
  ecdh: ReturnType<typeof createECDH>
  auth: string
  /** The sender that may reach it: whoever the subscription was made for (RFC 8292 §4); any, until one is said. */
  sender: string | null
  manner: Manner
  messages: Message[]
  tries: number
}

const MOST_BYTES = 4096
const MOST_MESSAGES = 500

export function pushService(): Hono {
  const devices = new Map<string, Device>()
  return new Hono({ strict: false })
    .post('/devices', async c => {
      const { sender = null } = await c.req.json<{ sender?: string }>().catch(() => ({ sender: undefined }))
      const ecdh = createECDH('prime256v1')
      ecdh.generateKeys()
      const [id, auth] = [randomBytes(16).toString('base64url'), randomBytes(16).toString('base64url')]
      devices.set(id, { ecdh, auth, sender, manner: 'well', messages: [], tries: 0 })
      const endpoint = `${new URL(c.req.url).origin}/push/to/${id}`
      const keys = { p256dh: ecdh.getPublicKey('base64url'), auth }
      return c.json({ id, subscription: { endpoint, keys } }, 201)
    })
    .put('/devices/:id', async c => {
      const device = devices.get(c.req.param('id'))
      if (!device) return c.notFound()
      device.manner = (await c.req.json<{ manner: Manner }>()).manner
      return c.json({ ok: true })
    })
    .get('/devices/:id', c => {
      const device = devices.get(c.req.param('id'))
      return device ? c.json({ messages: device.messages, tries: device.tries }) : c.notFound()
    })
    .post('/to/:id', async c => {
      const device = devices.get(c.req.param('id'))
      if (!device) return c.text('', 404)
      device.tries++
      const { manner } = device
      if (manner === 'silent') await new Promise(() => undefined)
      if (manner === 'gone') return c.text('', 410)
      if (manner === 'busy') return c.text('', 503)
      if (!isProven(c.req.header('Authorization') ?? '', device, new URL(c.req.url).origin))
        return c.text('', 403)
      const ttl = Number(c.req.header('TTL') ?? NaN)
      if (!Number.isFinite(ttl)) return c.text('', 400)
      const body = Buffer.from(await c.req.arrayBuffer())
      if (body.length > MOST_BYTES) return c.text('', 413)
      const topic = c.req.header('Topic') ?? null
      device.messages.push({ told: read(body, device), topic, ttl, urgency: c.req.header('Urgency') ?? null })
      device.messages.splice(0, device.messages.length - MOST_MESSAGES)
      return c.text('', 201)
    })
}

function read(body: Buffer, { ecdh, auth }: Device): unknown {
  try {
    const plain = decrypt(body, { version: 'aes128gcm', privateKey: ecdh, authSecret: auth })
    return JSON.parse(plain.toString('utf8'))
  } catch {
    return null
  }
}

/** RFC 8292 §3: `vapid t=<JWT by ES256>, k=<its public key>`. */
function isProven(given: string, device: Device, audience: string): boolean {
  const [, token = '', key = ''] = /^vapid t=([\w.-]+), ?k=([\w-]+)$/.exec(given) ?? []
  const [head = '', claims = '', signature = ''] = token.split('.')
  if (device.sender !== null && device.sender !== key) return false
  const point = Buffer.from(key, 'base64url')
  if (point.length !== 65) return false
  const [x, y] = [point.subarray(1, 33), point.subarray(33)].map(b => b.toString('base64url'))
  const publicKey = createPublicKey({ key: { kty: 'EC', crv: 'P-256', x, y }, format: 'jwk' })
  const signed = Buffer.from(`${head}.${claims}`)
  const how = { key: publicKey, dsaEncoding: 'ieee-p1363' as const }
  if (!verify('sha256', signed, how, Buffer.from(signature, 'base64url'))) return false
  const { aud, exp } = JSON.parse(Buffer.from(claims, 'base64url').toString('utf8')) as Record<
    string,
    unknown
  >
  return aud === audience && typeof exp === 'number' && exp * 1000 > Date.now()
}
