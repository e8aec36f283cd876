import { Hono } from 'hono'
import { objectIn } from '../body.ts'
import { now } from '../clock.ts'
import type { FaultSwitch } from '../faults.ts'
import { esc, field, page } from '../page.ts'
import type { Store } from '../store.ts'

/**
 * Gate Chat: channels in which people write to one another. A message that is marked is to do, and taking the mark off
 * means done. Who is there may say what they are at, until a moment.
 */

export interface ChatMessage {
  id: number
  channel: string
  by: string
  text: string
  /** ISO 8601, UTC. */
  at: string
  marked: boolean
  version: number
}

export interface ChatStatus {
  text: string
  /** ISO 8601, UTC; it is gone by itself then. */
  until: string
}

export interface ChatState {
  channels: { id: string; name: string }[]
  messages: ChatMessage[]
  statuses: Record<string, ChatStatus>
  seq: number
}

/** By their access keys. */
const PEOPLE: Record<string, string> = {
  'chat-key-ines': 'Ines Varga',
  'chat-key-tobias': 'Tobias Lund',
}
const MOST_TEXT = 4000
const ROWS = 20

export function chatSeed(): ChatState {
  const state: ChatState = {
    channels: [
      { id: 'gate-house', name: 'Gate house' },
      { id: 'night-crew', name: 'Night crew' },
    ],
    messages: [],
    statuses: {},
    seq: 0,
  }
  const add = (channel: string, days: number, by: string, text: string, marked: boolean): void => {
    const at = new Date(now() - days * 86_400_000).toISOString()
    state.messages.push({ id: ++state.seq, channel, by, text, at, marked, version: 1 })
  }
  add('gate-house', 2, 'Rafael Quint', 'Who has the key of the seed store?', false)
  add('gate-house', 1, 'Mei Okoro', 'Bring the spare latch for the lower gate.', true)
  add('night-crew', 1, 'Tobias Lund', 'House 3 drips again, I look at it tomorrow.', false)
  return state
}

/** What somebody says of themselves now, if it has not run out. */
function statusOf({ statuses }: ChatState, who: string): ChatStatus | null {
  const status = statuses[who]
  return status && Date.parse(status.until) > now() ? status : null
}

export function chatApi(store: Store<ChatState>, faults: FaultSwitch): Hono<{ Variables: { who: string } }> {
  const app = new Hono<{ Variables: { who: string } }>({ strict: false })
  app.use(async (c, next) => {
    const who = PEOPLE[c.req.header('Authorization')?.replace(/^Bearer /, '') ?? '']
    if (!who) return c.json({ problem: 'no such key' }, 401)
    c.set('who', who)
    await next()
    return undefined
  })
  app.get('/me', c => c.json({ id: c.get('who').toLowerCase().replace(/\W+/g, '-'), name: c.get('who') }))
  app.get('/channels', c => c.json({ channels: store.value.channels }))
  app.get('/channels/:channel/messages', c => {
    const all = store.value.messages.filter(
      m => m.channel === c.req.param('channel') && (c.req.query('marked') !== 'yes' || m.marked),
    )
    const after = Number(c.req.query('after') ?? 0) || 0
    const rest = all.filter(m => m.id > after)
    const shown = rest.slice(0, ROWS)
    const next = rest.length > ROWS ? String(shown.at(-1)?.id ?? '') : null
    return c.json({ messages: faults.listed(shown), next })
  })
  app.post('/channels/:channel/messages', async c => {
    const channel = c.req.param('channel')
    if (!store.value.channels.some(k => k.id === channel)) return c.json({ problem: 'no such channel' }, 404)
    const { text } = await objectIn(c)
    if (typeof text !== 'string' || text.trim() === '') return c.json({ problem: 'nothing is written' }, 422)
    if (text.length > MOST_TEXT) return c.json({ problem: `more than ${MOST_TEXT} characters` }, 422)
    const at = new Date(now()).toISOString()
    const id = ++store.value.seq
    const message = { id, channel, by: c.get('who'), text, at, marked: false, version: 1 }
    store.value.messages.push(message)
    store.save()
    return c.json({ message }, 201)
  })
  const found = (id: string): ChatMessage | undefined => store.value.messages.find(m => m.id === Number(id))
  app.get('/messages/:id', c => {
    const message = found(c.req.param('id'))
    return message ? c.json({ message }) : c.json({ problem: 'no such message' }, 404)
  })
  app.put('/messages/:id/mark', async c => {
    const message = found(c.req.param('id'))
    if (!message) return c.json({ problem: 'no such message' }, 404)
    const match = c.req.header('If-Match')
    if (match !== undefined && match !== String(message.version))
      return c.json({ problem: 'changed meanwhile' }, 412)
    message.marked = (await objectIn(c)).marked === true
    message.version++
    store.save()
    return c.json({ message })
  })
  app.get('/status', c => c.json({ status: statusOf(store.value, c.get('who')) }))
  app.put('/status', async c => {
    const { text, until } = await objectIn(c)
    if (typeof text !== 'string' || text.length > 100 || Number.isNaN(Date.parse(String(until))))
      return c.json({ problem: 'a text of at most 100 characters, and until when' }, 422)
    store.value.statuses[c.get('who')] = { text, until: String(until) }
    store.save()
    return c.json({ status: statusOf(store.value, c.get('who')) })
  })
  app.delete('/status', c => {
    const { [c.get('who')]: _, ...rest } = store.value.statuses
    store.value.statuses = rest
    store.save()
    return c.json({ status: null })
  })
  return app
}

export function chatPage(store: Store<ChatState>, faultForm: () => string): Hono {
  return new Hono({ strict: false })
    .get('/', c => {
      const { channels, messages } = store.value
      const people = Object.values(PEOPLE).map(who => {
        const status = statusOf(store.value, who)
        return `<li>${esc(who)}: ${status ? `${esc(status.text)} <span class="note">until ${esc(status.until)}</span>` : 'says nothing'}</li>`
      })
      const tables = channels.map(channel => {
        const rows = messages
          .filter(m => m.channel === channel.id)
          .map(
            m => `<tr><td><form method="post" action="/chat/page/${m.id}"><button>${m.marked ? 'Unmark' : 'Mark'}</button>
              <span class="note">${esc(m.by)}</span><div style="white-space:pre-wrap">${m.marked ? '<strong>' : ''}${esc(m.text)}${m.marked ? '</strong>' : ''}</div></form></td></tr>`,
          )
        return `<h2>${esc(channel.name)}</h2><table>${rows.join('')}<tr><td><form method="post" action="/chat/page/new/${channel.id}">
          ${field('text', '', 'Text')} <button>Write it, marked</button></form></td></tr></table>`
      })
      const keys = Object.entries(PEOPLE).map(([key, who]) => `${key} (${who})`)
      const note = `A chat at /chat/. Marked messages are to do. Access keys: ${keys.join(', ')}.`
      return c.html(page('Gate Chat', note, `<ul>${people.join('')}</ul>${tables.join('')}${faultForm()}`))
    })
    .post('/new/:channel', async c => {
      const text = String((await c.req.parseBody()).text ?? '').trim() || 'Something to do'
      store.value.messages.push({
        id: ++store.value.seq,
        channel: c.req.param('channel'),
        by: 'Visitor',
        text,
        at: new Date(now()).toISOString(),
        marked: true,
        version: 1,
      })
      store.save()
      return c.redirect('/chat/page/')
    })
    .post('/:id', c => {
      const message = store.value.messages.find(m => m.id === Number(c.req.param('id')))
      if (!message) return c.text('It is gone.', 404)
      message.marked = !message.marked
      message.version++
      store.save()
      return c.redirect('/chat/page/')
    })
}
