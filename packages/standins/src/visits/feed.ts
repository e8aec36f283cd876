import { createHash } from 'node:crypto'
import { gzipSync } from 'node:zlib'
import { Hono } from 'hono'
import { now, weekDay } from '../clock.ts'
import type { FaultSwitch } from '../faults.ts'
import { ics } from '../garden/ics.ts'
import { esc, field, page } from '../page.ts'
import { Store } from '../store.ts'

/** School Visits: one calendar that a school office publishes, to be read only. */

interface Visit {
  id: string
  school: string
  day: string
  from: string
  to: string
}

export interface VisitsState {
  visits: Visit[]
  seq: number
  changed: string
}

export const visitsSeed = (): VisitsState => ({
  visits: [
    { id: 'v1', school: 'Alder', day: weekDay(0), from: '14:00', to: '15:30' },
    { id: 'v2', school: 'Rowan', day: weekDay(1), from: '13:30', to: '15:30' },
    { id: 'v3', school: 'Hazel', day: weekDay(3), from: '10:00', to: '11:30' },
    { id: 'v4', school: 'Elder', day: weekDay(8), from: '10:00', to: '11:30' },
    { id: 'v5', school: 'Spindle', day: weekDay(10), from: '13:00', to: '14:30' },
  ],
  seq: 5,
  changed: new Date(now() - 3 * 86_400_000).toISOString(),
})

function feedText(state: VisitsState): string {
  const stamp = Date.parse(state.changed)
  const events = state.visits.map(v => {
    const whole = ics(
      {
        uid: `${v.id}@school-visits.example`,
        summary: `School visit: ${v.school}`,
        day: v.day,
        from: v.from,
        to: v.to,
      },
      stamp,
    )
    return whole.slice(whole.indexOf('BEGIN:VEVENT'), whole.indexOf('END:VCALENDAR'))
  })
  const zone = ics({ uid: 'z', summary: 'z', day: weekDay(0), from: '09:00', to: '10:00' }, stamp)
  const timezone = zone.slice(zone.indexOf('BEGIN:VTIMEZONE'), zone.indexOf('BEGIN:VEVENT'))
  const head = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//School Visits//Feed//EN',
    'NAME:School visits',
    'X-WR-CALNAME:School visits',
    'REFRESH-INTERVAL;VALUE=DURATION:PT15M',
    'COLOR:purple',
  ]
  return `${head.join('\r\n')}\r\n${timezone}${events.join('')}END:VCALENDAR\r\n`
}

export function visitsFeed(store: Store<VisitsState>, faults: FaultSwitch): Hono {
  return new Hono({ strict: false }).get('/spring-term.ics', c => {
    const { value } = store
    const text = faults.current.empty ? feedText({ ...value, visits: [] }) : feedText(value)
    const etag = `"${createHash('sha1').update(text).digest('hex').slice(0, 16)}"`
    const headers = {
      ETag: etag,
      'Last-Modified': new Date(value.changed).toUTCString(),
      'Content-Type': 'text/calendar; charset=utf-8',
      Vary: 'Accept-Encoding',
    }
    if (c.req.header('If-None-Match') === etag) return c.body(null, 304, headers)
    if (!/\bgzip\b/.test(c.req.header('Accept-Encoding') ?? '')) return c.body(text, 200, headers)
    return c.body(new Uint8Array(gzipSync(text)), 200, { ...headers, 'Content-Encoding': 'gzip' })
  })
}

/** The address of a term that the office has not set up again since it moved. */
export const brokenFeed = (): Hono =>
  new Hono({ strict: false }).get('/autumn-term.ics', c => c.text('the office is moving', 500))

export function visitsPage(store: Store<VisitsState>, faultForm: () => string): Hono {
  const touch = (): void => {
    store.value.changed = new Date(now()).toISOString()
    store.save()
  }
  const fields = (v: Partial<Visit>): string =>
    [
      field('school', v.school, 'School'),
      field('day', v.day, 'Day', 'date'),
      field('from', v.from, 'From', 'time'),
      field('to', v.to, 'To', 'time'),
    ].join(' ')
  const visitOf = (form: Record<string, unknown>) => ({
    school: String(form.school ?? ''),
    day: String(form.day ?? ''),
    from: String(form.from ?? ''),
    to: String(form.to ?? ''),
  })
  return new Hono({ strict: false })
    .get('/', c => {
      const rows = store.value.visits.map(
        v => `<tr><td><form method="post" action="/visits/page/${esc(v.id)}">${fields(v)} <button>Save</button>
          <button name="remove" value="1">Delete</button></form></td></tr>`,
      )
      const note = 'An iCalendar feed at /visits/spring-term.ics. It can only be read.'
      const add = `<form method="post" action="/visits/page/new">${fields({})} <button>Add visit</button></form>`
      return c.html(
        page('School Visits', note, `<table>${rows.join('')}<tr><td>${add}</td></tr></table>${faultForm()}`),
      )
    })
    .post('/:id', async c => {
      const form = await c.req.parseBody()
      const id = c.req.param('id')
      const given = visitOf(form)
      if (!/^\d{4}-\d\d-\d\d$/.test(given.day) || !given.from || !given.to)
        return c.text('A day and hours are needed.', 400)
      const state = store.value
      if (id === 'new') state.visits.push({ id: `v${++state.seq}`, ...given })
      else if (form.remove) state.visits = state.visits.filter(v => v.id !== id)
      else state.visits = state.visits.map(v => (v.id === id ? { id, ...given } : v))
      touch()
      return c.redirect('/visits/page/')
    })
}
