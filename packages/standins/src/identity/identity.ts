import { createHash, randomBytes } from 'node:crypto'
import { Hono } from 'hono'
import { exportJWK, generateKeyPair, SignJWT } from 'jose'
import { esc, page } from '../page.ts'

/**
 * Gate Pass: an identity provider that people sign in with (OpenID Connect Core 1.0, authorization code with PKCE,
 * RFC 7636; discovery 1.0). One chooses who one is; of the last two it does not say whose mail address it is, or says
 * one that nobody here knows.
 */

interface Holder {
  sub: string
  name: string
  email: string
  verified: boolean
}
const garden = (sub: string, name: string): Holder => ({
  sub,
  name,
  email: `${name.split(' ')[0]?.toLowerCase() ?? ''}@quillmere.example`,
  verified: true,
})
const HOLDERS: Holder[] = [
  garden('pass-1', 'Ines Varga'),
  garden('pass-2', 'Tobias Lund'),
  garden('pass-3', 'Anouk Thapa'),
  garden('pass-4', 'Mei Okoro'),
  garden('pass-5', 'Rafael Quint'),
  garden('pass-6', 'Bram Castelijn'),
  { sub: 'pass-7', name: 'Somebody who says to be Ines', email: 'ines@quillmere.example', verified: false },
  { sub: 'pass-8', name: 'Pia Tarn', email: 'pia@tarnlane.example', verified: true },
]

interface Grant {
  holder: Holder
  client: string
  redirect: string
  challenge: string
  nonce: string
  until: number
}
const CODE_MS = 60_000

/** @param prefix where it is mounted */
export function identityProvider(prefix: string): Hono {
  const app = new Hono({ strict: false })
  const codes = new Map<string, Grant>()
  const keys = generateKeyPair('RS256', { extractable: true })
  const issuerOf = (url: string): string => new URL(prefix, url).href
  app.get('/.well-known/openid-configuration', c => {
    const issuer = issuerOf(c.req.url)
    return c.json({
      issuer,
      authorization_endpoint: `${issuer}/authorize`,
      token_endpoint: `${issuer}/token`,
      jwks_uri: `${issuer}/jwks`,
      response_types_supported: ['code'],
      subject_types_supported: ['public'],
      id_token_signing_alg_values_supported: ['RS256'],
      code_challenge_methods_supported: ['S256'],
      token_endpoint_auth_methods_supported: ['client_secret_post', 'none'],
    })
  })
  app.get('/jwks', async c => {
    const jwk = await exportJWK((await keys).publicKey)
    return c.json({ keys: [{ ...jwk, kid: 'one', alg: 'RS256', use: 'sig' }] })
  })
  app.get('/authorize', c => {
    const q = c.req.query()
    const isWhole = q.response_type === 'code' && q.code_challenge_method === 'S256' && q.code_challenge
    if (!isWhole || !URL.canParse(q.redirect_uri ?? '')) return c.text('This request is not complete.', 400)
    const hidden = ['redirect_uri', 'state', 'code_challenge', 'nonce', 'client_id']
      .map(name => `<input type="hidden" name="${name}" value="${esc(q[name] ?? '')}">`)
      .join('')
    const who = HOLDERS.map(
      h =>
        `<p><button name="sub" value="${h.sub}">${esc(h.name)}</button> ${esc(h.email)}${h.verified ? '' : ' (not verified)'}</p>`,
    ).join('')
    const form = `<form method="post" action="${prefix}/authorize">${hidden}${who}<p><button name="sub" value="">Not now</button></p></form>`
    return c.html(page('Gate Pass', 'Amber Loom asks who you are.', form))
  })
  app.post('/authorize', async c => {
    const form = await c.req.parseBody()
    const said = (name: string): string => String(form[name] ?? '')
    if (!URL.canParse(said('redirect_uri'))) return c.text('No way back was named.', 400)
    const back = new URL(said('redirect_uri'))
    back.searchParams.set('state', said('state'))
    back.searchParams.set('iss', issuerOf(c.req.url))
    const holder = HOLDERS.find(h => h.sub === said('sub'))
    if (holder) {
      const code = randomBytes(18).toString('base64url')
      codes.set(code, {
        holder,
        client: said('client_id'),
        redirect: said('redirect_uri'),
        challenge: said('code_challenge'),
        nonce: said('nonce'),
        until: Date.now() + CODE_MS,
      })
      back.searchParams.set('code', code)
    } else back.searchParams.set('error', 'access_denied')
    return c.redirect(back.href)
  })
  app.post('/token', async c => {
    const form = await c.req.parseBody()
    const grant = codes.get(String(form.code))
    codes.delete(String(form.code))
    const challenge = createHash('sha256').update(String(form.code_verifier)).digest('base64url')
    if (
      !grant ||
      grant.until < Date.now() ||
      challenge !== grant.challenge ||
      String(form.redirect_uri) !== grant.redirect
    )
      return c.json({ error: 'invalid_grant' }, 400)
    const { sub, name, email, verified } = grant.holder
    const { nonce } = grant
    const token = await new SignJWT({ name, email, email_verified: verified, ...(nonce && { nonce }) })
      .setProtectedHeader({ alg: 'RS256', kid: 'one' })
      .setIssuer(issuerOf(c.req.url))
      .setAudience(grant.client)
      .setSubject(sub)
      .setIssuedAt()
      .setExpirationTime('5m')
      .sign((await keys).privateKey)
    return c.json({
      access_token: randomBytes(18).toString('base64url'),
      token_type: 'Bearer',
      id_token: token,
    })
  })
  return app
}
