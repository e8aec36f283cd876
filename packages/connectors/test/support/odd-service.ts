import { ServiceDescription } from '../../src/index.ts'
import { type Answered, type Asked, serve } from './server.ts'

/** A task manager made of habits: each test says how it pages, tells changes and answers to writes. */
export interface Row {
  id: string
  list: string
  name: string
  state: string
  [field: string]: unknown
}

export interface OddService {
  host: string
  rows: Map<string, Row>
  /** Every request since it was last emptied. */
  asked: Asked[]
  /** Answers before the service does; null lets it. */
  first: (asked: Asked) => Answered | null
  add: (row: Partial<Row>) => Row
}

export const json = (value: unknown, status = 200, headers: Record<string, string> = {}): Answered => ({
  status,
  headers: { 'Content-Type': 'application/json', ...headers },
  body: JSON.stringify(value),
})

const PAGE = 2

/** `page`: how a listing is cut; the rest is the same for all. */
export async function oddService(page: 'none' | 'cursor' | 'page' | 'offset' | 'link'): Promise<OddService> {
  let next = 0
  const service: OddService = {
    host: '',
    rows: new Map(),
    asked: [],
    first: () => null,
    add(row) {
      const made: Row = {
        list: 'one',
        name: 'Task',
        state: 'open',
        rev: 1,
        ...row,
        id: row.id ?? `r${++next}`,
      }
      service.rows.set(made.id, made)
      return made
    },
  }
  const listed = ({ query, path }: Asked): Answered => {
    const all = [...service.rows.values()].filter(r => r.list === query.get('list'))
    if (page === 'none') return json({ rows: all, all: all.length })
    const start = page === 'page' ? (Number(query.get('at') ?? 1) - 1) * PAGE : Number(query.get('at') ?? 0)
    const part = all.slice(start, start + PAGE)
    const more = start + PAGE < all.length
    const after = String(start + PAGE)
    const link = {
      Link: `</other>; rel="prev", <${path}?list=${query.get('list') ?? ''}&at=${after}>; rel="next"`,
    }
    return json(
      { rows: part, all: all.length, pages: Math.ceil(all.length / PAGE), more, next: more ? after : null },
      200,
      page === 'link' && more ? link : {},
    )
  }
  const handle = (asked: Asked): Answered => {
    service.asked.push(asked)
    const early = service.first(asked)
    if (early) return early
    const { method, path, body } = asked
    if (path === '/me') return json({ id: 'p1', name: 'Ines', zone: 'Europe/Dublin' })
    if (path === '/lists')
      return json({
        lists: [
          { id: 'one', name: 'One' },
          { id: 'two', name: 'Two' },
        ],
      })
    if (path === '/rows' && method === 'GET') return listed(asked)
    const given = (body ? JSON.parse(body) : {}) as Partial<Row>
    if (path === '/rows' && method === 'POST') return json({ row: service.add(given) }, 201)
    const row = service.rows.get(decodeURIComponent(path.split('/')[2] ?? ''))
    if (!row) return json({ error: 'gone' }, 404)
    if (method === 'DELETE') {
      service.rows.delete(row.id)
      return { status: 204 }
    }
    if (method === 'PATCH') Object.assign(row, given, { rev: Number(row.rev) + 1 })
    return json({ row })
  }
  service.host = await serve(handle)
  return service
}

const PAGING = {
  none: { kind: 'none' },
  cursor: { kind: 'cursor', next: '/next', param: 'at' },
  page: { kind: 'page', param: 'at', pages: '/pages' },
  offset: { kind: 'offset', param: 'at', more: '/more' },
  link: { kind: 'link' },
} as const

/** A description of it; `change` replaces whole parts. */
export function describeOdd(page: keyof typeof PAGING, change: object = {}): ServiceDescription {
  return ServiceDescription.parse({
    format: 'amber-loom.service/1',
    name: 'Odd',
    signIn: { kind: 'bearer' },
    account: { request: { path: '/me' }, id: '/id', name: '/name', zone: '/zone' },
    collections: { request: { path: '/lists' }, items: '/lists', id: '/id', name: '/name' },
    list: {
      request: { path: '/rows', query: { list: '{collection}' } },
      items: '/rows',
      total: '/all',
      paging: PAGING[page],
    },
    item: { request: { path: '/rows/{id}' }, at: '/row', id: '/id', collection: '/list', revision: '/rev' },
    fields: {
      summary: { as: 'text', at: '/name', maxLength: 20 },
      status: { as: 'status', at: '/state' },
      start: { as: 'day-and-hour', at: '/day', hourAt: '/hour' },
      due: { as: 'day', at: '/last' },
      estimatedDuration: { as: 'minutes', at: '/effort', unit: 30 },
      priority: { as: 'priority', at: '/weight', number: true },
      assignees: { as: 'people', at: '/who', each: '/no', number: true },
      categories: { as: 'words', at: '/tags' },
      recurring: { as: 'present', at: '/repeat' },
    },
    statuses: [
      { id: 'open', name: 'Open', means: 'needs-action' },
      { id: 'doing', name: 'Doing', means: 'in-process' },
      { id: 'shut', name: 'Shut', means: 'completed' },
    ],
    priorities: [
      { id: '1', name: 'Much', means: 1 },
      { id: '2', name: 'Little', means: 9 },
    ],
    operations: {
      create: {
        steps: [
          { method: 'POST', path: '/rows', body: { list: '{collection}', '...': '{fields}' }, item: '/row' },
        ],
      },
      change: { steps: [{ method: 'PATCH', path: '/rows/{id}', body: { '...': '{fields}' }, item: '/row' }] },
      delete: { steps: [{ method: 'DELETE', path: '/rows/{id}' }] },
    },
    ...change,
  })
}
