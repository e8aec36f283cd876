import { Hono } from 'hono'
import { esc, field, page } from '../page.ts'
import type { Cell, Column, Entry, Register } from './state.ts'

/** A page on which one sees and edits the register, and renames its columns. */

const inputFor = (column: Column, cell: Cell | null | undefined): string => {
  const value = (cell ?? {}) as Record<string, unknown>
  if (column.kind === 'one-of')
    return `<select name="${column.id}" aria-label="${esc(column.name)}"><option value=""></option>${column.words
      .map(w => `<option value="${w.id}"${value.word === w.id ? ' selected' : ''}>${esc(w.word)}</option>`)
      .join('')}</select>`
  if (column.kind === 'moment') return field(column.id, value.from, column.name)
  return ''
}

const row = (
  columns: Column[],
  e: Entry,
): string => `<tr><td><form method="post" action="/register/page/${e.id}">
  ${field('heading', e.heading, 'Heading')} ${columns.map(k => inputFor(k, e.cells[k.id])).join(' ')}
  <button>Save</button> <button name="remove" value="1">Strike</button></form></td></tr>`

export function registerPage(register: Register, faultForm: () => string): Hono {
  const cellsFrom = (
    columns: Column[],
    form: Record<string, unknown>,
    was: Entry['cells'],
  ): Entry['cells'] => {
    const cells = { ...was }
    for (const k of columns) {
      const given = String(form[k.id] ?? '')
      if (k.kind === 'one-of') cells[k.id] = given ? { word: given } : null
      if (k.kind === 'moment') {
        const before = was[k.id] as { from?: string; to?: string | null } | null
        if (given !== (before?.from ?? '')) cells[k.id] = given ? { from: given, to: null } : null
      }
    }
    return cells
  }
  return new Hono({ strict: false })
    .get('/', c => {
      const tables = register.state.registers.map(r => {
        const names = r.columns.map(k => field(k.id, k.name, `Name of ${k.id}`)).join(' ')
        return `<h2>${esc(r.name)}</h2><form method="post" action="/register/page/columns/${r.id}">Columns: ${names} <button>Rename</button></form>
          <table>${register
            .entriesOf(r.id)
            .map(e => row(r.columns, e))
            .join('')}
          <tr><td><form method="post" action="/register/page/new/${r.id}">${field('heading', '', 'Heading')} <button>Add entry</button></form></td></tr></table>`
      })
      const note =
        'Entries with columns of their users’ making, at /register/r/. Key: register-key-anouk. Moments are days, or days with hours such as 2026-11-24T10:00.'
      return c.html(page('Plant Register', note, tables.join('') + faultForm()))
    })
    .post('/columns/:register', async c => {
      const form = await c.req.parseBody()
      for (const k of register.state.registers.find(r => r.id === c.req.param('register'))?.columns ?? [])
        k.name = String(form[k.id] ?? k.name)
      register.store.save()
      return c.redirect('/register/page/')
    })
    .post('/new/:register', async c => {
      const heading = String((await c.req.parseBody()).heading ?? '').trim()
      if (!heading) return c.text('A heading is needed.', 400)
      register.add(c.req.param('register'), heading, '', {})
      return c.redirect('/register/page/')
    })
    .post('/:id', async c => {
      const entry = register.state.entries[c.req.param('id')]
      if (!entry) return c.text('It is gone.', 404)
      const form = await c.req.parseBody()
      const columns = register.state.registers.find(r => r.id === entry.register)?.columns ?? []
      if (form.remove) register.strike(entry.id)
      else {
        entry.heading = String(form.heading ?? entry.heading)
        entry.cells = cellsFrom(columns, form, entry.cells)
        register.put(entry)
      }
      return c.redirect('/register/page/')
    })
}
