import { createHash, randomBytes } from 'node:crypto'
import { Hono } from 'hono'
import { esc, page } from '../page.ts'
import type { Board } from './state.ts'

/** Repairs Board's sign-in: OAuth 2.0 authorization code with PKCE (RFC 6749 §4.1, RFC 7636), on a consent page. */

const CODE_MS = 60_000
const TOKEN_MS = 600_000

const isAddress = (url: string): boolean => URL.canParse(url) && /^https?:$/.test(new URL(url).protocol)

export function boardOAuth(board: Board): Hono {
  const app = new Hono({ strict: false })
  const fresh = (account: number) => {
    const token = randomBytes(24).toString('base64url')
    const refresh = randomBytes(24).toString('base64url')
    board.state.tokens[token] = { account, until: Date.now() + TOKEN_MS }
    board.state.refresh[refresh] = account
    board.store.save()
    return { access_token: token, token_type: 'Bearer', expires_in: TOKEN_MS / 1000, refresh_token: refresh }
  }

  app.get('/authorize', c => {
    const q = c.req.query()
    if (
      q.response_type !== 'code' ||
      q.code_challenge_method !== 'S256' ||
      !q.code_challenge ||
      !isAddress(q.redirect_uri ?? '')
    )
      return c.text('This request for consent is not complete.', 400)
    const hidden = ['redirect_uri', 'state', 'code_challenge']
      .map(name => `<input type="hidden" name="${name}" value="${esc(q[name] ?? '')}">`)
      .join('')
    const people = board.state.people
      .map(p => `<option value="${p.account_no}">${esc(p.name)} (${p.account_no})</option>`)
      .join('')
    const form = `<form method="post" action="/board/oauth/authorize">${hidden}
      <p><label>You are <select name="account">${people}</select></label></p>
      <p><button name="answer" value="yes">Allow</button> <button name="answer" value="no">Do not allow</button></p></form>`
    return c.html(
      page(
        'Repairs Board',
        `${esc(q.client_id ?? 'A program')} asks to read and change your work orders.`,
        form,
      ),
    )
  })
  app.post('/authorize', async c => {
    const form = await c.req.parseBody()
    const redirect = String(form.redirect_uri)
    if (!isAddress(redirect)) return c.text('No way back was named.', 400)
    const back = new URL(redirect)
    back.searchParams.set('state', String(form.state))
    if (form.answer === 'yes') {
      const code = randomBytes(18).toString('base64url')
      board.state.codes[code] = {
        account: Number(form.account),
        challenge: String(form.code_challenge),
        redirect,
        until: Date.now() + CODE_MS,
      }
      board.store.save()
      back.searchParams.set('code', code)
    } else back.searchParams.set('error', 'access_denied')
    return c.redirect(back.href, 303)
  })
  app.post('/token', async c => {
    const form = await c.req.parseBody()
    if (form.grant_type === 'refresh_token') {
      const account = board.state.refresh[String(form.refresh_token)]
      if (account === undefined) return c.json({ error: 'invalid_grant' }, 400)
      // A refresh token is good once; the answer brings the next.
      delete board.state.refresh[String(form.refresh_token)]
      return c.json(fresh(account))
    }
    const known = board.state.codes[String(form.code)]
    const challenge = createHash('sha256').update(String(form.code_verifier)).digest('base64url')
    delete board.state.codes[String(form.code)]
    if (
      !known ||
      known.until < Date.now() ||
      known.challenge !== challenge ||
      known.redirect !== form.redirect_uri
    )
      return c.json({ error: 'invalid_grant' }, 400)
    return c.json(fresh(known.account))
  })
  /** For trials: every access token given out so far is over, its refresh token is not. */
  app.post('/expire', c => {
    board.state.tokens = {}
    board.store.save()
    return c.json({ ok: true })
  })
  return app
}
