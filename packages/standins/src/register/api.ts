import { type Context, Hono } from 'hono'
import { objectIn } from '../body.ts'
import { buckets } from '../bucket.ts'
import type { FaultSwitch } from '../faults.ts'
import { type Cell, type Column, type Entry, Register } from './state.ts'

/** Plant Register's interface: everything is a POST, and even an error comes with status 200. */

const KEY = 'register-key-anouk'
const TAKE = 30

/** Whether a cell is of the column's kind. */
function fits(column: Column, cell: unknown): cell is Cell {
  if (typeof cell !== 'object' || cell === null) return false
  const given = cell as Record<string, unknown>
  const known = (id: unknown): boolean => column.words.some(w => w.id === id)
  const moment = (v: unknown): boolean => typeof v === 'string' && /^\d{4}-\d\d-\d\d(T\d\d:\d\d)?$/.test(v)
  switch (column.kind) {
    case 'one-of':
      return given.word === null || known(given.word)
    case 'several':
      return Array.isArray(given.words) && given.words.every(known)
    case 'moment':
      return moment(given.from) && (given.to == null || moment(given.to))
    case 'person':
      return Array.isArray(given.persons)
    case 'yes-no':
      return typeof given.yes === 'boolean'
    case 'text':
      return typeof given.text === 'string'
  }
}

export function registerApi(register: Register, faults: FaultSwitch): Hono {
  const app = new Hono({ strict: false })
  const may = buckets(8, 6)
  const good = (c: Context, data: object): Response => c.json({ good: true, data })
  const bad = (c: Context, code: string, words: string, more: object = {}): Response =>
    c.json({ good: false, fault: { code, words, ...more } })
  const shown = (e: Entry): object => ({
    ...e,
    amended: Register.rounded(e.amended + (faults.current.skewMs ?? 0)),
    entered: Register.rounded(e.entered),
  })

  app.use(async (c, next) => {
    if (c.req.header('X-Register-Key') !== KEY) return bad(c, 'who', 'This key opens nothing.')
    if (!may(KEY)) return bad(c, 'busy', 'One thing after the other.', { wait_seconds: 1 })
    await next()
    return undefined
  })
  const columnsOf = (id: string): Column[] => register.state.registers.find(r => r.id === id)?.columns ?? []
  /** The cells of a request, or what is wrong with them. */
  const cellsOf = (id: string, given: unknown): Entry['cells'] | string => {
    const cells: Entry['cells'] = {}
    for (const [key, cell] of Object.entries((given ?? {}) as Record<string, unknown>)) {
      const column = columnsOf(id).find(k => k.id === key)
      if (!column) return `There is no column ${key}.`
      if (cell === null) cells[key] = null
      else if (fits(column, cell)) cells[key] = cell
      else return `This does not fit into the column ${column.name}.`
    }
    return cells
  }

  app.post('/account', c =>
    good(c, {
      person: 'u-anouk',
      name: 'Anouk Thapa',
      zone: 'Asia/Kathmandu',
      time: Register.rounded(faults.clock()),
    }),
  )
  app.post('/persons', c => good(c, { persons: register.state.persons }))
  app.post('/registers', c =>
    good(c, { registers: register.state.registers.map(({ id, name, columns }) => ({ id, name, columns })) }),
  )
  app.post('/find', async c => {
    const { register: id, from = 0, amended_since: since } = await objectIn(c)
    if (!register.state.registers.some(r => r.id === id))
      return bad(c, 'nothing', 'There is no such register.')
    const all = register
      .entriesOf(String(id))
      .filter(e => typeof since !== 'string' || Register.rounded(e.amended) >= since)
    const start = Number(from) || 0
    const part = all.slice(start, start + TAKE)
    return good(c, {
      entries: faults.listed(part).map(shown),
      found: all.length,
      more: start + TAKE < all.length,
    })
  })
  app.post('/entry', async c => {
    const entry = register.state.entries[String((await objectIn(c)).id)]
    return entry ? good(c, { entry: shown(entry) }) : bad(c, 'nothing', 'There is no such entry.')
  })
  app.post('/enter', async c => {
    const { register: id, heading, body = '', cells } = await objectIn(c)
    if (typeof heading !== 'string' || !heading.trim()) return bad(c, 'wrong', 'A heading is needed.')
    const made = cellsOf(String(id), cells)
    if (typeof made === 'string') return bad(c, 'wrong', made)
    return good(c, { entry: shown(register.add(String(id), heading, String(body), made)) })
  })
  app.post('/amend', async c => {
    const { id, heading, body, cells } = await objectIn(c)
    const entry = register.state.entries[String(id)]
    if (!entry) return bad(c, 'nothing', 'There is no such entry.')
    const made = cellsOf(entry.register, cells)
    if (typeof made === 'string') return bad(c, 'wrong', made)
    if (typeof heading === 'string') entry.heading = heading
    if (typeof body === 'string') entry.body = body
    entry.cells = { ...entry.cells, ...made }
    return good(c, { entry: shown(register.put(entry)) })
  })
  app.post('/strike', async c => {
    const id = String((await objectIn(c)).id)
    if (!register.state.entries[id]) return bad(c, 'nothing', 'There is no such entry.')
    register.strike(id)
    return good(c, {})
  })
  return app
}
