import webPush from 'web-push'
import { z } from 'zod'
import { seal, unseal } from '../access/secrets.ts'
import type { Context } from '../context/context.ts'
import { pushKeys, putPushKeys } from '../data/repositories/installation.ts'

/** Web Push (RFC 8030, 8291, 8292): what a browser is told while no page is open, which only it can read. */

const Base64Url = z
  .string()
  .max(200)
  .regex(/^[\w-]+={0,2}$/)
export const Subscription = z.object({
  endpoint: z.url({ protocol: /^https?$/ }).max(1000),
  keys: z.object({ p256dh: Base64Url, auth: Base64Url }),
})
export type Subscription = z.infer<typeof Subscription>

export interface Told {
  title: string
  body: string
  /** What is told anew under the same tag replaces what was told before. */
  tag: string
  /** Where it leads, within the application. */
  to: string
  /** The reminder, where it can be put off from there. */
  reminder: string | null
}

const WITHIN_MS = 5_000
/** RFC 8030 §5.2: at least so long it is kept for a browser that is off, seconds. */
const LEAST_TTL = 60

const Keys = z.object({ publicKey: z.string(), privateKey: z.string() })

/** Made when they are first needed; by two servers at once, those of one of them. */
export async function ourKeys(ctx: Pick<Context, 'db' | 'secret'>): Promise<z.infer<typeof Keys>> {
  const known = await pushKeys(ctx.db)
  if (known) return Keys.parse(unseal(known.value, ctx.secret))
  await putPushKeys(ctx.db, { value: seal(webPush.generateVAPIDKeys(), ctx.secret) })
  return ourKeys(ctx)
}

/**
 * `gone`: that browser does not want it any more (RFC 8030 §7.3). `failed`: it may be tried again.
 * @param untilMs until when it is of use, epoch ms
 */
export async function push(
  ctx: Pick<Context, 'db' | 'secret' | 'http' | 'publicUrl' | 'now' | 'log'>,
  subscription: Subscription,
  told: Told,
  untilMs: number,
): Promise<'sent' | 'gone' | 'failed'> {
  try {
    const { publicKey, privateKey } = await ourKeys(ctx)
    const { headers, body } = webPush.generateRequestDetails(subscription, JSON.stringify(told), {
      // RFC 8292 §2.1 wants https or mailto, where whoever runs a push service can ask.
      vapidDetails: { subject: subjectOf(ctx.publicUrl), publicKey, privateKey },
      TTL: Math.max(LEAST_TTL, Math.ceil((untilMs - ctx.now()) / 1000)),
      urgency: 'high',
      topic: told.tag.replaceAll(/[^\w-]/g, '').slice(0, 32),
    })
    const { 'Content-Length': _, ...sent } = headers
    const { status } = await ctx.http({
      method: 'POST',
      url: subscription.endpoint,
      headers: Object.fromEntries(Object.entries(sent).map(([name, value]) => [name, String(value)])),
      body,
      timeoutMs: WITHIN_MS,
    })
    if (status === 404 || status === 410) return 'gone'
    return status >= 200 && status < 300 ? 'sent' : 'failed'
  } catch (error) {
    ctx.log.warn({ err: error }, 'a device could not be told')
    return 'failed'
  }
}

function subjectOf(publicUrl: string): string {
  const { protocol, hostname } = new URL(publicUrl)
  return protocol === 'https:' ? publicUrl : `mailto:amber-loom@${hostname}`
}
