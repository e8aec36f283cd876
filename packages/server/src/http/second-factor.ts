import { zValidator } from '@hono/zod-validator'
import { type Context as HonoContext, Hono } from 'hono'
import { z } from 'zod'
import { Passkeys, siteOf } from '../access/passkeys.ts'
import { type Proof, SecondFactor } from '../access/second-factor.ts'
import type { Context } from '../context/context.ts'
import { codesOf } from '../data/repositories/second-factor.ts'
import { Signed } from './entry.ts'
import { BY_NUMBER, inWords, type SignedIn } from './session.ts'

/** More than a password: one-time codes and passkeys, and proving a session by one of them. */

const Given = z.object({ code: z.string().min(1).max(40) })

export function secondFactorRoutes(ctx: Context) {
  const { db } = ctx
  const factor = new SecondFactor(db, ctx.secret)
  const passkeys = new Passkeys(db)
  const refused = (c: HonoContext, proof: Exclude<Proof, { kind: 'taken' }>) =>
    proof.kind === 'wait'
      ? c.json({ reason: `Too many tries. Try again in ${inWords(proof.seconds)}.` }, 429)
      : c.json(
          { reason: 'That code is not right, or was used already. Codes change every thirty seconds.' },
          403,
        )
  return (
    new Hono<SignedIn>()
      .get('/', async c => {
        const { userId, owes, wantsSecond } = c.get('member')
        const known = await codesOf(db, { userId })
        return c.json({
          owes: owes !== null,
          required: wantsSecond,
          codes: known?.since == null ? null : { since: known.since, left: known.left },
          passkeys: known?.passkeys ?? 0,
        })
      })
      /** A secret for a telephone: shown once, in use once a code of it is confirmed. */
      .post('/codes', async c => {
        const begun = await factor.begin(c.get('member'))
        return begun ? c.json(begun) : c.json({ reason: 'You have codes already. Turn them off first.' }, 409)
      })
      .post('/codes/confirm', zValidator('json', Given), async c => {
        const proof = await factor.confirm(c.get('member').userId, c.req.valid('json').code)
        if (proof.kind === 'wrong' || proof.kind === 'wait') return refused(c, proof)
        await factor.prove(c.get('session'))
        return c.json({ recovery: proof.kind === 'confirmed' ? proof.recovery : [] })
      })
      .post('/codes/off', zValidator('json', Given), async c => {
        const { userId } = c.get('member')
        const proof = await factor.take(userId, c.req.valid('json').code)
        if (proof.kind !== 'taken') return refused(c, proof)
        await factor.off(userId)
        return c.json({ ok: true as const })
      })
      .post('/codes/recovery', zValidator('json', Given), async c => {
        const { userId } = c.get('member')
        const proof = await factor.take(userId, c.req.valid('json').code)
        if (proof.kind !== 'taken') return refused(c, proof)
        return c.json({ recovery: await factor.renewRecovery(userId) })
      })
      .post('/code', zValidator('json', Given), async c => {
        const proof = await factor.take(c.get('member').userId, c.req.valid('json').code)
        if (proof.kind !== 'taken') return refused(c, proof)
        await factor.prove(c.get('session'))
        return c.json({ ok: true as const })
      })
      .post('/passkey/options', async c => {
        const site = siteOf(c.req.url, ctx.publicUrl)
        return site ? c.json(await passkeys.toUse(site)) : c.json(BY_NUMBER, 422)
      })
      .post('/passkey', zValidator('json', z.object({ response: Signed })), async c => {
        const site = siteOf(c.req.url, ctx.publicUrl)
        const userId = site && (await passkeys.userOf(site, c.req.valid('json').response))
        if (userId !== c.get('member').userId)
          return c.json({ reason: 'That passkey is not yours here, or did not answer in time.' }, 403)
        await factor.prove(c.get('session'))
        return c.json({ ok: true as const })
      })
  )
}
