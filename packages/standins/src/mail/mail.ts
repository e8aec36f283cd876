import { Hono } from 'hono'
import { now } from '../clock.ts'
import type { FaultSwitch } from '../faults.ts'
import { esc, field, page } from '../page.ts'
import { objectIn } from '../body.ts'
import { Store } from '../store.ts'

/** Gatehouse Mail: a mailbox in which a flag means "to do", and taking it off means "done". */

export interface Message {
  id: number
  tray: string
  subject: string
  from: { name: string; address: string }
  text: string
  /** Epoch seconds. */
  received: number
  flagged: boolean
  version: number
}

export interface MailState {
  trays: { id: string; title: string }[]
  messages: Message[]
  seq: number
}

const SIGN_IN = { user: 'gatehouse', password: 'lower-gate' }
const ROWS = 10

export function mailSeed(): MailState {
  const state: MailState = {
    trays: [
      { id: 'gate', title: 'Gate' },
      { id: 'trustees', title: 'Trustees' },
    ],
    messages: [],
    seq: 0,
  }
  const add = (
    tray: string,
    days: number,
    name: string,
    subject: string,
    text: string,
    flagged: boolean,
  ): void => {
    const address = `${name.toLowerCase().replace(/\W+/g, '.')}@post.example`
    const received = Math.floor(now() / 1000) - days * 86_400
    state.messages.push({
      id: ++state.seq,
      tray,
      subject,
      from: { name, address },
      text,
      received,
      flagged,
      version: 1,
    })
  }
  add('gate', 1, 'Orla Fenn', 'Lantern insurance', 'Could you send the sheet before Friday?', true)
  add('gate', 2, 'Bus company', 'Stop at the lower gate', 'We need the hours of the festival.', true)
  add('gate', 3, 'Seed partners', 'Swap table', 'Two tables are enough for us.', false)
  add('gate', 6, 'Hugh Tarn', 'Lantern brief', 'Looking forward to it.', true)
  add('trustees', 2, 'Orla Fenn', 'Minutes', 'Please read and correct.', true)
  return state
}

export function mailApi(store: Store<MailState>, faults: FaultSwitch): Hono {
  const app = new Hono({ strict: false })
  app.use(async (c, next) => {
    const given = Buffer.from(
      c.req.header('Authorization')?.replace(/^Basic /, '') ?? '',
      'base64',
    ).toString()
    if (given !== `${SIGN_IN.user}:${SIGN_IN.password}`) return c.json({ problem: 'sign in' }, 401)
    await next()
    return undefined
  })
  app.get('/trays', c =>
    c.json(
      store.value.trays.map(t => ({
        ...t,
        flagged: store.value.messages.filter(m => m.tray === t.id && m.flagged).length,
      })),
    ),
  )
  /** The next page is named in a Link header (RFC 8288). */
  app.get('/trays/:tray/messages', c => {
    const all = store.value.messages.filter(
      m => m.tray === c.req.param('tray') && (c.req.query('flagged') !== 'yes' || m.flagged),
    )
    const start = Number(c.req.query('start') ?? 0) || 0
    const url = new URL(c.req.url)
    url.searchParams.set('start', String(start + ROWS))
    const headers =
      start + ROWS < all.length ? { Link: `<${url.pathname}${url.search}>; rel="next"` } : undefined
    return c.json(faults.listed(all.slice(start, start + ROWS)), 200, headers)
  })
  const found = (id: string): Message | undefined => store.value.messages.find(m => m.id === Number(id))
  app.get('/messages/:id', c => {
    const message = found(c.req.param('id'))
    return message ? c.json(message) : c.json({ problem: 'no such message' }, 404)
  })
  app.put('/messages/:id/flag', async c => {
    const message = found(c.req.param('id'))
    if (!message) return c.json({ problem: 'no such message' }, 404)
    const match = c.req.header('If-Match')
    if (match !== undefined && match !== String(message.version))
      return c.json({ problem: 'changed meanwhile' }, 412)
    message.flagged = (await objectIn(c)).flagged === true
    message.version++
    store.save()
    return c.json(message)
  })
  return app
}

export function mailPage(store: Store<MailState>, faultForm: () => string): Hono {
  return new Hono({ strict: false })
    .get('/', c => {
      const tables = store.value.trays.map(tray => {
        const rows = store.value.messages
          .filter(m => m.tray === tray.id)
          .map(
            m => `<tr><td><form method="post" action="/mail/page/${m.id}"><button>${m.flagged ? 'Unflag' : 'Flag'}</button>
              ${m.flagged ? '<strong>' : ''}${esc(m.subject)}${m.flagged ? '</strong>' : ''} <span class="note">${esc(m.from.name)}</span></form></td></tr>`,
          )
        return `<h2>${esc(tray.title)}</h2><table>${rows.join('')}<tr><td><form method="post" action="/mail/page/new/${tray.id}">
          ${field('subject', '', 'Subject')} <button>Receive it, flagged</button></form></td></tr></table>`
      })
      const note = `A mailbox at /mail/. Flagged messages are to do. Sign-in: ${SIGN_IN.user} / ${SIGN_IN.password}.`
      return c.html(page('Gatehouse Mail', note, tables.join('') + faultForm()))
    })
    .post('/new/:tray', async c => {
      const subject = String((await c.req.parseBody()).subject ?? '').trim() || 'No subject'
      store.value.messages.push({
        id: ++store.value.seq,
        tray: c.req.param('tray'),
        subject,
        from: { name: 'Visitor', address: 'visitor@post.example' },
        text: '',
        received: Math.floor(now() / 1000),
        flagged: true,
        version: 1,
      })
      store.save()
      return c.redirect('/mail/page/')
    })
    .post('/:id', c => {
      const message = store.value.messages.find(m => m.id === Number(c.req.param('id')))
      if (!message) return c.text('It is gone.', 404)
      message.flagged = !message.flagged
      message.version++
      store.save()
      return c.redirect('/mail/page/')
    })
}
