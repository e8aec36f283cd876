import { zValidator } from '@hono/zod-validator'
import { type Account, ConnectionInput } from '@loom/connectors'
import { Hono } from 'hono'
import { z } from 'zod'
import { seal } from '../access/secrets.ts'
import { beginDraft, dropDraft, loadDraft } from '../connecting/drafts.ts'
import { subscribe, tryService } from '../connecting/connect-service.ts'
import { type Context, inputOf } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import { AlsoAt, asked, connectionIn, type Failed, GONE } from './one-connection.ts'
import type { SignedIn } from './session.ts'
import { type ConnectionRow, putCredentials, OWN } from '../data/repositories/connections.ts'

/** Signing in again to a connection, without losing anything. */

const agreedIn = ({ credentials }: ConnectionInput): string[] =>
  'alsoAt' in credentials ? (credentials.alsoAt ?? []) : []

const refusalOf = ({ reason, trouble, origin }: Failed) => ({ reason, trouble, alsoAt: origin })

/** A sentence if it is another account than the connection's; null if it is the same, or unknown. */
const anotherAccount = (
  row: Pick<ConnectionRow, 'name' | 'account_subject'>,
  { name, subject }: Account,
): string | null =>
  row.account_subject === null || row.account_subject === subject
    ? null
    : `This is another account${name ? `, that of ${name}` : ''}. “${row.name}” stays signed in as it was. Connect the other account as a connection of its own.`

export function connectionSignInRoutes(ctx: Context, engine: Engine) {
  return (
    new Hono<SignedIn>()
      .put(
        '/:id/credentials',
        zValidator(
          'json',
          z.object({
            user: z.string().max(200).optional(),
            password: z.string().max(500).optional(),
            key: z.string().max(500).optional(),
            alsoAt: AlsoAt,
          }),
        ),
        async c => {
          const member = c.get('member')
          const row = await connectionIn(ctx, c.req.param('id'), member)
          if (!row || row.kind === OWN) return c.json(GONE, 404)
          const known = inputOf(row, ctx.secret)
          const { alsoAt = [], ...given } = c.req.valid('json')
          // Servers agreed to earlier stay agreed to.
          const agreed = [...new Set([...agreedIn(known), ...alsoAt])]
          const also = agreed.length > 0 ? { alsoAt: agreed } : {}
          if (known.kind === 'http-json' && known.description.signIn.kind === 'oauth2') {
            const input = { ...known, credentials: { ...known.credentials, ...also } }
            const begun = await asked(() => beginDraft(ctx, member, `again:${row.id}`, input))
            if (!begun.ok) return c.json(refusalOf(begun), 422)
            return c.json({ consent: begun.value.kind === 'consent' ? begun.value.url : null })
          }
          const input = ConnectionInput.safeParse({
            ...known,
            credentials: { ...given, ...also },
          })
          if (!input.success)
            return c.json({ reason: 'Something is missing to sign in with.', trouble: 'missing' }, 422)
          const tried = await asked(() => tryService(ctx, input.data))
          if (!tried.ok) return c.json(refusalOf(tried), 422)
          const another = anotherAccount(row, tried.value)
          if (another) return c.json({ reason: another, trouble: 'signed-out' as const }, 422)
          await putCredentials(ctx.db, {
            id: row.id,
            credentials: seal(input.data.credentials, ctx.secret),
          })
          await engine.look(row.id)
          return c.json({ consent: null })
        },
      )
      /** Back from the consent page of a connection that was signed out. */
      .post('/:id/consented/:draft', async c => {
        const member = c.get('member')
        const row = await connectionIn(ctx, c.req.param('id'), member)
        const draft = await loadDraft(ctx, member, c.req.param('draft'))
        if (!row || draft?.service !== `again:${row.id}` || !draft.account) return c.json(GONE, 404)
        const another = anotherAccount(row, draft.account)
        if (another) {
          await dropDraft(ctx, draft.id)
          return c.json({ reason: another }, 422)
        }
        await putCredentials(ctx.db, {
          id: row.id,
          credentials: seal(draft.input.credentials, ctx.secret),
        })
        await dropDraft(ctx, draft.id)
        await subscribe(ctx, row.id)
        await engine.look(row.id)
        return c.json({ ok: true as const })
      })
  )
}
