import { plainPlanning } from '@loom/core/planning'
import { plainView } from '@loom/core'
import { makeApp } from '../../src/http/app.ts'
import { weekDay, type World } from './world.ts'

/** Every route of members, as the application itself lists them, aimed at what is there and with what would do harm. */

export interface Route {
  /** `GET /api/cloth/:key`. */
  pattern: string
  method: string
  path: string
  body: object | undefined
}

/** What the routes are aimed at; without it, at whatever is there first. */
export interface Aim {
  key: string
  list: string
  rule: string
}

const GIVEN = {
  password: 'x',
  user: 'x',
  key: 'x',
  address: 'https://calendars.example.org',
}
const FORM = {
  name: 'Theirs',
  ownerId: null,
  takesPart: [],
  scope: { by: 'sentence', future: false, filter: [], notes: true },
  meanings: {},
  people: {},
  dyes: {},
  picks: [],
}
const VIEW = {
  name: 'Theirs',
  icon: 'leaf',
  body: plainView,
  grants: [{ to: { kind: 'everybody' }, level: 'change' }],
}
const LATER_MS = Date.parse(`${weekDay(7)}T10:00:00Z`)
const OFFER = {
  title: 'Quillmere lanterns',
  lengths: [45],
  how: 'any',
  before: 0,
  after: 0,
  noticeHours: 0,
  mostPerDay: null,
  location: '',
  callLink: '',
  questions: [],
  zone: 'UTC',
  when: { kind: 'spans', spans: [{ fromMs: LATER_MS, toMs: LATER_MS + 7_200_000 }] },
}
const FILE = { text: 'Title;Until\nTheirs;', mapping: null, into: { task: null, event: null } }

/** Not for members alone: whether the server is up, signing in, and entering by an address that was given. */
const OPEN = /^\/api\/(health|session|guest|times(\/.*)?|entry(\/.*)?)$|\*/
export const listedRoutes = (w: World): string[] => [
  ...new Set(
    makeApp(w.app.ctx, w.app.engine, { web: null, trustedProxies: [] })
      .routes.filter(r => r.path.startsWith('/api/') && r.method !== 'ALL' && !OPEN.test(r.path))
      .map(r => `${r.method} ${r.path.replace(/\/$/, '')}`),
  ),
]
/** Every route of members, as the application itself lists them, with what would do harm there. */
export async function everyRoute(w: World, aim: Partial<Aim> = {}): Promise<Route[]> {
  const call = async (path: string) => (await w.client.call('GET', path)).body
  const { connections } = await call('/connections')
  const { rules } = await call('/rules')
  const { items } = await call(`/cloth?from=${weekDay(0)}&days=7`)
  const rule = rules.find((r: { id: string }) => r.id === aim.rule) ?? rules[0]
  const [key, otherKey] = [
    aim.key ?? items[0].key,
    items.find((i: { key: string }) => i.key !== aim.key)?.key,
  ]
  const ruleBody = { id: rule.id, a: rule.a, b: rule.b, settings: rule.settings }
  const begun = await w.client.call('POST', '/connecting/drafts', {
    service: 'ics-feed',
    address: `${w.standins}/visits/spring-term.ics`,
  })
  const connection = connections.find((c: { name: string }) => c.name === 'Garden Calendars').id
  const collection = aim.list ?? connections[0].collections[0].id
  const { members } = await call('/team')
  const offer = await w.client.call('POST', '/offers', {
    terms: OFFER,
    hosts: [(await call('/me')).id],
    into: null,
  })
  const ids: [RegExp, string][] = [
    [/^\/api\/team\/members\/:id/, members[1].id],
    [/^\/api\/connections\/:id/, connection],
    [/^\/api\/rules\/:id/, rule.id],
    [/^\/api\/offers\/:id/, offer.body.id],
    [/^\/api\/sharing\/lists\/:id/, collection],
    [/^\/api\/connecting\/drafts\/:id/, begun.body.draft],
    [/^\/api\/connecting\/services\/:id/, 'bench-list'],
  ]
  const query: Record<string, string> = {
    '/api/cloth': `?from=${weekDay(0)}&days=7`,
    '/api/planning/ways': `?from=${weekDay(0)}&days=7`,
    '/api/cloth/search': '?q=lantern',
    '/api/links/:id/look': `?from=${weekDay(0)}&days=7&zone=UTC`,
    '/api/time/entries': `?from=${weekDay(0)}&to=${weekDay(7)}`,
    '/api/time/report': `?from=${weekDay(0)}&to=${weekDay(7)}`,
    '/api/time/report/file': `?from=${weekDay(0)}&to=${weekDay(7)}`,
    '/api/time/team': `?from=${weekDay(0)}&to=${weekDay(7)}`,
    '/api/time/team/file': `?from=${weekDay(0)}&to=${weekDay(7)}`,
    '/api/ties/candidates': `?item=${key}&q=`,
    '/api/cloth/:key/move': `?to=${collection}`,
    '/api/files/export': `?format=ics&collections=${collection}`,
  }
  const bodies: Record<string, object> = {
    'POST /api/cloth/:key/edit': { do: 'rename', title: 'Not theirs' },
    'POST /api/cloth/:key/series': { which: 'all', edit: { do: 'delete' } },
    'POST /api/cloth/:key/duplicate': { start: null },
    'PUT /api/cloth/:key/batch': { tasks: [] },
    'POST /api/cloth/:key/move': { to: collection },
    'POST /api/cloth/make': {
      what: 'block',
      task: key,
      start: { kind: 'date', date: weekDay(0) },
      minutes: 30,
      into: collection,
    },
    'PUT /api/me': { settings: {} },
    'POST /api/offers': { terms: OFFER, hosts: [members[1].id], into: collection },
    'POST /api/offers/look': { terms: OFFER },
    'POST /api/offers/:id/part': { takes: true, into: null },
    'PUT /api/offers/:id/end': { over: true },
    'PUT /api/planning': { version: 0, planning: plainPlanning },
    'PUT /api/planning/waits/:key': { for: [] },
    'POST /api/planning/new/seen': { atMs: 0 },
    'POST /api/planning/apply': {
      pieces: [
        { what: 'plan', task: key },
        { what: 'block', task: key },
        { what: 'move', key, plan: false },
        { what: 'remove', key, plan: false },
      ].map(p => ({ ...p, fromMs: LATER_MS, toMs: LATER_MS + 1_800_000, pinned: false })),
    },
    'POST /api/common-time/look': {
      people: [members[1].id],
      minutes: 45,
      below: 0,
      fromMs: LATER_MS,
      toMs: LATER_MS + 7_200_000,
    },
    'POST /api/common-time/take': {
      people: [members[1].id],
      minutes: 45,
      below: 0,
      startMs: LATER_MS,
      title: 'Theirs',
      into: collection,
    },
    'POST /api/cloth/:key/answers': { email: 'x@quillmere.example', counts: true },
    'POST /api/invitations/:id': { answer: 'accepted' },
    'POST /api/reminders/done': { ids: ['nothing'] },
    'POST /api/reminders/:id/later': { againAt: LATER_MS },
    'PUT /api/reminders/items/:key': { minutes: 5 },
    'POST /api/reminders/push': {
      subscription: { endpoint: 'https://push.example.org/x', keys: { p256dh: 'x', auth: 'x' } },
      device: 'Theirs',
    },
    'POST /api/chat/messages': { chat: 'nothing', channel: 'nothing', text: 'Theirs' },
    'POST /api/time/entries': { item: key, title: '', day: '2020-01-01', time: { minutes: 5 } },
    'PATCH /api/time/entries/:id': { version: 1, assumed: false },
    'POST /api/time/confirm': { ids: ['nothing'] },
    'POST /api/time/clock': { item: key },
    'PUT /api/team': { name: 'Theirs', zone: 'UTC' },
    'POST /api/team/invitations': { email: 'new@elsewhere.example', role: 'member' },
    'POST /api/requests': { ask: 'see', list: collection, level: 'everything' },
    'POST /api/requests/:id/answer': { accept: true },
    'POST /api/comments/on/:key': { text: 'Theirs' },
    'PUT /api/comments/:id': { text: 'Theirs' },
    'PUT /api/presence/:page': { from: weekDay(0), to: weekDay(6) },
    'PUT /api/team/members/:id/role': { role: 'reader' },
    'POST /api/team/members/:id/remove': { connections: 'pause' },
    'POST /api/team/leave': { connections: 'pause' },
    'POST /api/team/delete': { name: 'Quillmere Garden' },
    'PUT /api/team/second': { wants: false },
    'POST /api/account/second/code': { code: '000000' },
    'POST /api/account/second/codes/confirm': { code: '000000' },
    'POST /api/account/second/codes/off': { code: '000000' },
    'POST /api/account/second/codes/recovery': { code: '000000' },
    'POST /api/account/delete': { password: 'wrong' },
    'PUT /api/account/password': { old: 'elsewhere', password: 'elsewhere' },
    'POST /api/account/workspaces': { name: '', zone: 'UTC' },
    'PUT /api/account/workspace': { id: 'nothing' },
    'POST /api/account/passkeys': { name: 'Theirs', response: { id: 'x', response: {} } },
    'PUT /api/ties/:id': { parted: true },
    'PUT /api/ties/by-hand': { rule: rule.id, item: key, other: otherKey, same: true },
    'POST /api/categories/change': { do: 'dye', name: 'Theirs', dye: '#4e6b35' },
    'PUT /api/sharing': { changes: [{ list: collection, to: { kind: 'everybody' }, level: 'change' }] },
    'POST /api/sharing/effect': {
      changes: [{ list: collection, to: { kind: 'everybody' }, level: 'change' }],
    },
    'POST /api/links': { name: 'Theirs', lists: [collection], level: 'everything', weeks: 2, expires: null },
    'POST /api/links/look': {
      lists: [collection],
      level: 'everything',
      weeks: 2,
      span: { from: weekDay(0), days: 7, zone: 'UTC' },
    },
    'PUT /api/sharing/lists/:id/carried/:target': { level: 'everything' },
    'PUT /api/sharing/deputy': { deputy: members[1].id, from: weekDay(0), to: weekDay(3) },
    'PUT /api/sharing/groups/:id': { name: 'Theirs', members: [] },
    'POST /api/views': VIEW,
    'PUT /api/views/:id': { ...VIEW, version: 1 },
    'PUT /api/connections/:id/paused': { paused: true },
    'PUT /api/connections/:id/collections': { takesPart: [] },
    'POST /api/connections/:id/collections': { name: 'Theirs' },
    'PUT /api/connections/:id/settings': FORM,
    'POST /api/connections/:id/settings/effect': FORM,
    'POST /api/connections/:id/settings/count': { takesPart: [], filter: [] },
    'POST /api/connections/:id/settings/search': { takesPart: [], words: '' },
    'PUT /api/connections/:id/credentials': { user: 'x', password: 'x' },
    'POST /api/connecting/services': { description: '{}' },
    'POST /api/connecting/services/trial': { ...GIVEN, description: '{}', list: null },
    'POST /api/connecting/drafts': { ...GIVEN, service: 'no such service' },
    'POST /api/connecting/drafts/:id/count': { takesPart: [], filter: [] },
    'POST /api/connecting/drafts/:id/search': { takesPart: [], words: '' },
    'POST /api/connecting/drafts/:id/keep': FORM,
    'POST /api/doors': { kind: 'capture' },
    'POST /api/files/read': FILE,
    'POST /api/files/bring-in': { ...FILE, takeNew: true, takeChanged: true },
    'POST /api/rules': ruleBody,
    'POST /api/rules/preview': ruleBody,
    'PUT /api/rules/:id/state': { state: 'paused' },
    'PUT /api/rules/order': { ids: [rule.id] },
    'POST /api/rules/paper': { text: '{}' },
    'POST /api/waiting/conflicts': { of: [{ tie: 'nothing', field: 'title' }], take: 'a' },
    'POST /api/waiting/unconfirmed': { of: ['nothing'], answer: 'make' },
    'POST /api/waiting/brake': { ties: ['nothing'], answer: 'go' },
    'POST /api/journal/put-back': { entries: [1, 2, 3] },
    'POST /api/journal/put-back/look': { entries: [1, 2, 3] },
  }
  return listedRoutes(w).map(route => {
    const [method = '', pattern = ''] = route.split(' ')
    const id = ids.find(([of]) => of.test(pattern))?.[1] ?? 'nothing'
    const path = pattern
      .replace('/api', '')
      .replace(':id', id)
      .replace(':key', key)
      .replace(':kind', 'mail')
      .replace(/:\w+/g, 'nothing')
    return { pattern: route, method, path: path + (query[pattern] ?? ''), body: bodies[route] }
  })
}
