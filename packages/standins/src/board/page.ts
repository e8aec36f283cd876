import { Hono } from 'hono'
import { esc, field, page } from '../page.ts'
import type { Board, Crew, Order } from './state.ts'

/** A page on which one sees and edits the work orders. */

const options = (all: [string, string][], now: string): string =>
  all.map(([v, t]) => `<option value="${esc(v)}"${v === now ? ' selected' : ''}>${esc(t)}</option>`).join('')

const URGENCIES: [string, string][] = ['whenever', 'soon', 'at once'].map(u => [u, u])

export function boardPage(board: Board, faultForm: () => string): Hono {
  const row = (
    crew: Crew,
    o: Order,
  ): string => `<tr><td><form method="post" action="/board/page/orders/${esc(o.number)}">
    ${esc(o.number)} ${field('title', o.title, 'Title')} ${field('deadline', o.deadline, 'Deadline', 'date')}
    <select name="stage" aria-label="Stage">${options(
      crew.stages.map(s => [s.code, s.label]),
      o.stage,
    )}</select>
    <select name="urgency" aria-label="Urgency">${options(URGENCIES, o.urgency)}</select>
    <button>Save</button> <button name="remove" value="1">Delete</button>
    <select name="crew" aria-label="Crew">${options(
      board.state.crews.map(c => [c.no, c.title]),
      crew.no,
    )}</select></form></td></tr>`
  return new Hono({ strict: false })
    .get('/', c => {
      const tables = board.state.crews.map(
        crew => `<h2>${esc(crew.title)}</h2><table>${board
          .ordersOf(crew.no)
          .map(o => row(crew, o))
          .join('')}
          <tr><td><form method="post" action="/board/page/crews/${crew.no}">${field('title', '', 'Title')} <button>Add order</button></form></td></tr></table>`,
      )
      const note =
        'Work orders of crews, at /board/. One signs in on its consent page. Another crew gives an order another number.'
      return c.html(page('Repairs Board', note, tables.join('') + faultForm()))
    })
    .post('/crews/:crew', async c => {
      const crew = board.state.crews.find(x => x.no === c.req.param('crew'))
      const title = String((await c.req.parseBody()).title ?? '').trim()
      if (!crew || !title) return c.text('A title is needed.', 400)
      board.add(crew, { title })
      return c.redirect('/board/page/')
    })
    .post('/orders/:number', async c => {
      const order = board.state.orders[c.req.param('number')]
      if (!order) return c.text('It is gone.', 404)
      const form = await c.req.parseBody()
      const crew = board.state.crews.find(x => x.no === form.crew)
      if (form.remove) board.remove(order)
      else {
        board.change(order, {
          title: String(form.title),
          deadline: form.deadline ? String(form.deadline) : null,
          urgency: form.urgency === 'at once' || form.urgency === 'whenever' ? form.urgency : 'soon',
        })
        if (crew && crew.no !== order.crew) board.move(order, crew)
        else if (form.stage !== order.stage) board.stage(order, String(form.stage))
      }
      return c.redirect('/board/page/')
    })
}
