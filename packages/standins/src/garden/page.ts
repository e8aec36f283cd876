import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { now } from '../clock.ts'
import { esc, field, page } from '../page.ts'
import { ics } from './ics.ts'
import { type Calendar, type Garden, property, textOf } from './state.ts'

/** A page on which one sees and edits what the calendars hold. */

const clock = (value: string | undefined): { day: string; time: string } => {
  const m = /^(\d{4})(\d\d)(\d\d)(?:T(\d\d)(\d\d))?/.exec(value ?? '')
  return m ? { day: `${m[1]}-${m[2]}-${m[3]}`, time: m[4] ? `${m[4]}:${m[5]}` : '' } : { day: '', time: '' }
}

const unescape = (text: string): string => text.replace(/\\n/gi, '\n').replace(/\\([\\;,])/g, '$1')

function row(cal: Calendar, name: string, text: string): string {
  const start = clock(property(text, 'DTSTART')?.value)
  const end = clock(property(text, 'DTEND')?.value)
  const action = `/garden/page/${cal.user}/${cal.slug}/${encodeURIComponent(name)}`
  const repeats = property(text, 'RRULE') ? ' (repeats)' : ''
  const free = property(text, 'TRANSP')?.value === 'TRANSPARENT' ? 'free' : 'busy'
  const summary = unescape(property(text, 'SUMMARY')?.value ?? '')
  return `<tr><td colspan="4"><form method="post" action="${action}">
    ${field('summary', summary, 'Title')} ${field('day', start.day, 'Day', 'date')}
    ${field('from', start.time, 'From', 'time')} ${field('to', end.time, 'To', 'time')}
    <button>Save</button> <button name="remove" value="1">Delete</button> ${free}${repeats}</form></td></tr>`
}

/** Changes one property in the text and leaves the rest as it is. */
const replaced = (text: string, name: string, line: string): string => {
  const inEvent = text.indexOf('BEGIN:VEVENT')
  const head = text.slice(0, inEvent)
  const body = text.slice(inEvent)
  const found = new RegExp(`^${name}[;:][^\\r\\n]*(?:\\r?\\n[ \\t][^\\r\\n]*)*`, 'm')
  return (
    head +
    (found.test(body)
      ? body.replace(found, () => line)
      : body.replace('END:VEVENT', () => `${line}\r\nEND:VEVENT`))
  )
}

const escapeIcs = (text: string): string =>
  text
    .replace(/\\/g, '\\\\')
    .replace(/[;,]/g, m => `\\${m}`)
    .replace(/\r?\n/g, '\\n')

export function gardenPage(garden: Garden, faultForm: () => string): Hono {
  const app = new Hono({ strict: false })
  app.get('/', c => {
    const tables = garden.store.value.calendars.map(cal => {
      const rows = Object.entries(cal.objects)
        .map(([name, o]) => ({ name, text: textOf(o) }))
        .sort((x, y) =>
          (property(x.text, 'DTSTART')?.value ?? '').localeCompare(property(y.text, 'DTSTART')?.value ?? ''),
        )
        .map(o => row(cal, o.name, o.text))
      const add = `<form method="post" action="/garden/page/${cal.user}/${cal.slug}">${field('summary', '', 'Title')}
        ${field('day', '', 'Day', 'date')} ${field('from', '', 'From', 'time')} ${field('to', '', 'To', 'time')}
        <button>Add event</button></form>`
      return `<h2>${esc(cal.name)} <small class="note">${esc(cal.user)}${cal.readOnly ? ', read only' : ''}</small></h2>
        <table>${rows.join('')}<tr><td>${add}</td></tr></table>`
    })
    const users = Object.entries(garden.store.value.users)
    const note = `A CalDAV server (RFC 4791) at /garden/dav/. Sign-in: ${users.map(([u, v]) => `${u} / ${v.password}`).join(', ')}.`
    return c.html(page('Garden Calendars', note, tables.join('') + faultForm()))
  })
  app.post('/:user/:cal', async c => {
    const cal = garden.calendar(c.req.param('user'), c.req.param('cal'))
    const form = await c.req.parseBody()
    const day = String(form.day)
    if (!cal || !/^\d{4}-\d\d-\d\d$/.test(day)) return c.text('A day is needed.', 400)
    const uid = `${randomUUID()}@quillmere.example`
    const timed = form.from && form.to ? { from: String(form.from), to: String(form.to) } : {}
    garden.write(
      cal,
      `${uid}.ics`,
      Buffer.from(ics({ uid, summary: String(form.summary), day, ...timed }, now())),
    )
    return c.redirect('/garden/page/')
  })
  app.post('/:user/:cal/:name', async c => {
    const cal = garden.calendar(c.req.param('user'), c.req.param('cal'))
    const name = c.req.param('name')
    const object = cal?.objects[name]
    if (!cal || !object) return c.text('It is gone.', 404)
    const form = await c.req.parseBody()
    if (form.remove) {
      garden.remove(cal, name)
      return c.redirect('/garden/page/')
    }
    let text = replaced(textOf(object), 'SUMMARY', `SUMMARY:${escapeIcs(String(form.summary))}`)
    const day = String(form.day).replace(/-/g, '')
    if (form.from && form.to) {
      const tzid = /TZID:Europe\/Dublin/.test(text) ? ';TZID=Europe/Dublin' : ''
      text = replaced(text, 'DTSTART', `DTSTART${tzid}:${day}T${String(form.from).replace(':', '')}00`)
      text = replaced(text, 'DTEND', `DTEND${tzid}:${day}T${String(form.to).replace(':', '')}00`)
    }
    const stamp = `${new Date(now()).toISOString().replace(/[-:]/g, '').slice(0, 15)}Z`
    garden.write(cal, name, Buffer.from(replaced(text, 'LAST-MODIFIED', `LAST-MODIFIED:${stamp}`)))
    return c.redirect('/garden/page/')
  })
  return app
}
