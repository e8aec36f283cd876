import { Hono } from 'hono'
import { esc, field, page } from '../page.ts'
import type { Bench, BenchTask, TaskInput } from './state.ts'

/** A page on which one sees and edits what the lists hold. */

const weights = (now: number): string =>
  [1, 2, 3, 4, 5].map(w => `<option${w === now ? ' selected' : ''}>${w}</option>`).join('')

const fields = (t: Partial<BenchTask>): string =>
  [
    field('text', t.text, 'Text'),
    field('day', t.day, 'Day', 'date'),
    field('hour', t.hour, 'Hour', 'time'),
    `<select name="weight" aria-label="Weight">${weights(t.weight ?? 3)}</select>`,
  ].join(' ')

const row = (t: BenchTask): string => `<tr><td><form method="post" action="/bench/page/tasks/${t.id}">
  <input type="checkbox" name="ticked" aria-label="Ticked"${t.ticked ? ' checked' : ''}>
  ${fields(t)} <button>Save</button> <button name="remove" value="1">Delete</button>
  ${t.finish_by ? `finish by ${esc(t.finish_by)}` : ''}</form></td></tr>`

const inputOf = (form: Record<string, unknown>): TaskInput => ({
  text: String(form.text ?? ''),
  day: form.day ? String(form.day) : null,
  hour: form.day && form.hour ? String(form.hour) : null,
  weight: Number(form.weight ?? 3),
})

export function benchPage(bench: Bench, faultForm: () => string): Hono {
  const app = new Hono({ strict: false })
  app.get('/', c => {
    const { lists, tasks, accounts } = bench.store.value
    const tables = lists.map(list => {
      const own = Object.values(tasks)
        .filter(t => t.list === list.id)
        .sort((x, y) => Number(x.ticked) - Number(y.ticked) || (x.day ?? '9').localeCompare(y.day ?? '9'))
      return `<h2>${esc(list.name)}</h2><table>${own.map(row).join('')}
        <tr><td><form method="post" action="/bench/page/lists/${list.id}">${fields({})} <button>Add task</button></form></td></tr></table>`
    })
    const note = `A JSON to-do service at /bench/v1/. Access key: ${Object.keys(accounts).join(', ')}. Ticked tasks leave its listings.`
    return c.html(page('Bench List', note, tables.join('') + faultForm()))
  })
  app.post('/lists/:list', async c => {
    const outcome = bench.add(c.req.param('list'), inputOf(await c.req.parseBody()), null)
    return 'error' in outcome ? c.text(outcome.error, outcome.status) : c.redirect('/bench/page/')
  })
  app.post('/tasks/:id', async c => {
    const form = await c.req.parseBody()
    const id = c.req.param('id')
    const input = { ...inputOf(form), ticked: form.ticked === 'on' }
    const outcome = form.remove ? bench.remove(id, null) : bench.change(id, input, null)
    return 'error' in outcome ? c.text(outcome.error, outcome.status) : c.redirect('/bench/page/')
  })
  return app
}
