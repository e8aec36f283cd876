import { expect } from 'chai'
import type { Locator, Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** Free time is drafted, put right by hand, asked for its reasons, applied and taken back. */
describe('a draft of the week', function () {
  this.timeout(90_000)
  let app: App
  let page: Page
  let there: ReturnType<typeof otherSide>

  before(async () => {
    app = await startApp({ clock: `${weekDay(0)}T07:30:00Z` })
    there = otherSide(app)
    page = await app.newPage({ height: 1000 })
    await signIn(page)
    await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
    const lists = (await call('GET', '/connections')).connections.flatMap((c: any) => c.collections)
    const into = lists.find((k: any) => k.name === 'Festival work').id
    await call('PUT', '/me', { settings: { blocksInto: into } })
    const urgent = { priority: 1, due: { kind: 'date', date: weekDay(3) } }
    for (const [title, estimate] of [
      ['Zorblax lamps', 60],
      ['Quennip banners', 200],
      ['Vexil ropes', 30],
    ] as const)
      await call('POST', '/cloth/make', {
        what: 'task',
        title,
        start: null,
        estimate,
        into: null,
        said: urgent,
      })
    await page.reload()
    await page
      .getByRole('group', { name: /^Vexil ropes/ })
      .first()
      .waitFor()
  })
  afterEach(async function () {
    // What a person would have seen, for whoever mends it.
    if (this.currentTest?.state === 'failed' && process.env.SHOTS)
      await page.screenshot({
        path: `${process.env.SHOTS}/${this.currentTest.title.slice(0, 30).replace(/\W/g, '-')}.png`,
      })
  })
  after(() => app.close())

  const call = callFrom(() => page)
  const panel = (): Locator => page.getByRole('complementary', { name: 'Draft' })
  const pieces = (title: string): Locator =>
    page.getByRole('group', { name: new RegExp(`^${title}, .*, draft`) })
  const line = (title: string): Locator => panel().getByRole('button', { name: new RegExp(`^${title}`) })
  const hem = (name: RegExp): Locator => page.getByRole('button', { name })
  const hourOf = async (title: string): Promise<string> =>
    /(\d\d:\d\d)–\d\d:\d\d, draft/.exec(
      (await pieces(title).first().getAttribute('aria-label')) ?? '',
    )?.[1] ?? ''

  it('is on the Cloth at one key, in parts where that is needed, and nothing is written', async () => {
    const before = (await there.events('festival-work')).length
    await page.keyboard.press('f')
    await pieces('Zorblax lamps').waitFor()
    await until('in parts', async () => (await pieces('Quennip banners').count()) > 1)
    await panel()
      .getByText(/Nothing is written before you apply it/)
      .waitFor()
    expect((await there.events('festival-work')).length).to.equal(before)
    // The choices of its sentence are kept, and it is another draft at once.
    await panel()
      .getByRole('button', { name: /Long tasks/ })
      .click()
    await page.getByRole('menuitemradio', { name: 'in one piece' }).click()
    await panel().getByText('There is free time, but it would leave no break.').waitFor()
    await until('no piece of it', async () => (await pieces('Quennip banners').count()) === 0)
    await panel()
      .getByRole('button', { name: /Long tasks/ })
      .click()
    await page.getByRole('menuitemradio', { name: 'in parts from 45 min' }).click()
    await until('in parts again', async () => (await pieces('Quennip banners').count()) > 1)
    expect((await call('GET', '/planning')).planning.sentence.parts).to.equal(45)
  })

  it('goes elsewhere when a guest books the time that it uses', async () => {
    const { id: me } = await call('GET', '/me')
    const hours = [{ weekdays: [1, 2, 3, 4, 5, 6, 7], start: 0, end: 1440 }]
    const terms = {
      title: 'Crumhorn lesson',
      lengths: [30],
      how: 'any',
      before: 0,
      after: 0,
      noticeHours: 0,
      mostPerDay: null,
      location: '',
      callLink: '',
      questions: [],
      zone: 'UTC',
      when: { kind: 'hours', hours, weeks: 2 },
    }
    const made = await call('POST', '/offers', { terms, hosts: [me], into: null })
    const as = (link: string) => ({
      'Content-Type': 'application/json',
      'Loom-Link': link.split('#')[1] ?? '',
    })
    const guest = async (link: string, path: string, body: object): Promise<number> => {
      const json = { method: 'POST', headers: as(link), body: JSON.stringify(body) }
      return (await fetch(`${app.url}/api/times${path}`, json)).status
    }
    const drafted = async (): Promise<number[]> => {
      const keys = await page
        .locator('[data-key^="draft "]')
        .evaluateAll(all => all.map(e => e.getAttribute('data-key') ?? ''))
      return keys.map(k => Number(k.split(' ')[1]))
    }
    const startMs = await until('a piece at a quarter', async () =>
      (await drafted()).find(ms => ms % 900_000 === 0),
    )
    const words = {
      name: 'Pia',
      address: 'pia@tarnlane.example',
      message: '',
      answers: [],
      by: 'place',
      zone: 'UTC',
    }
    const asked = { startMs, minutes: 30, askedAs: 'a-guest-page', guest: words }
    expect(await guest(made.link, '/ask', asked)).to.equal(201)
    const own = await until('a letter', async () => {
      const { letters } = (await (await fetch(`${app.standins}/mailbox/messages`)).json()) as {
        letters: any[]
      }
      return /\S+#[0-9a-f]{64}/.exec(
        letters.find(l => l.subject.startsWith('Confirm: Crumhorn'))?.text ?? '',
      )?.[0]
    })
    expect(await guest(own, '/booking/confirm', {})).to.equal(200)
    await until('the draft has made room', async () => {
      const starts = await drafted()
      return (
        starts.length > 0 &&
        starts.every(ms => ms >= startMs + 30 * 60_000 || ms < startMs) &&
        !starts.includes(startMs)
      )
    })
    // As it was, for what follows.
    expect(await guest(own, '/booking/call-off', {})).to.equal(200)
    await call('PUT', `/offers/${made.id}/end`, { over: true })
    await until('its time is free again', async () => {
      const { items } = await call('GET', `/cloth?from=${weekDay(0)}&days=14`)
      return items.every((i: any) => !i.title?.startsWith('Crumhorn'))
    })
  })

  it('says why a piece begins no earlier, and holds where it is put by hand', async () => {
    await line('Vexil ropes').click()
    await panel()
      .getByText(/Why not earlier|this is the first free time/)
      .waitFor()
    await panel().getByRole('button', { name: 'Pin here' }).click()
    await panel().getByText('You put it there.').waitFor()
    // From then on: what was called off before may still bring a better draft until it is pinned.
    const was = await hourOf('Vexil ropes')
    // By the keyboard, a quarter of an hour later; the focus stays on it.
    await pieces('Vexil ropes').first().focus()
    await page.keyboard.press('ArrowRight')
    await until('it has moved', async () => (await hourOf('Vexil ropes')) !== was)
    await page.keyboard.press('ArrowRight')
    const [h = 0, m = 0] = was.split(':').map(Number)
    const later = h * 60 + m + 30
    const wanted = `${String(Math.floor(later / 60)).padStart(2, '0')}:${String(later % 60).padStart(2, '0')}`
    await until('it has moved twice', async () => (await hourOf('Vexil ropes')) === wanted)
    await pieces('Vexil ropes').and(page.locator('[aria-label*="pinned"]')).waitFor()
    // Dragged on, what stands there gives way.
    // A piece that is drafted anew is drawn anew: at one moment it may have no box.
    // While a better draft is sought, rows grow and shrink, and the hand would meet something else.
    await until('the draft is at rest', async () => {
      const drawn = (): Promise<string[]> =>
        page
          .locator('[data-key^="draft "]')
          .evaluateAll(all => all.map(e => JSON.stringify(e.getBoundingClientRect())))
      const before = await drawn()
      await page.waitForTimeout(400)
      const isSought = await page.getByLabel('How far the draft is').isVisible()
      return !isSought && before.join() === (await drawn()).join()
    })
    const boxOf = (title: string) => until(`${title} is drawn`, () => pieces(title).first().boundingBox())
    const [from, to] = [await boxOf('Vexil ropes'), await boxOf('Zorblax lamps')]
    const held = await hourOf('Zorblax lamps')
    await page.mouse.move(from.x + 6, from.y + 6)
    await page.mouse.down()
    await page.mouse.move(from.x + 14, from.y + 8, { steps: 3 })
    await page.mouse.move(to.x + 8, to.y + 6, { steps: 8 })
    await page.mouse.up()
    await until(
      'it gave way',
      async () => (await hourOf('Zorblax lamps')) !== held || (await hourOf('Vexil ropes')) !== wanted,
    )
    await page.keyboard.press('Escape')
  })

  it('leaves out by a key what is not to be drafted, and takes it in again', async () => {
    await pieces('Vexil ropes').first().focus()
    await page.keyboard.press('l')
    await until('it is out', async () => (await pieces('Vexil ropes').count()) === 0)
    await panel().getByRole('button', { name: 'Take Vexil ropes in again' }).click()
    await pieces('Vexil ropes').first().waitFor()
  })

  it('drafts into a work window what passes it, which the Cloth shows as a hem', async () => {
    await panel().getByRole('button', { name: 'Work windows, regulars, travel' }).click()
    await page.getByRole('button', { name: 'Add a work window' }).click()
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByText('Give it a name.').waitFor()
    await page.getByLabel('Name').fill('Bench hours')
    await page.getByLabel('From', { exact: true }).fill('15')
    await page.getByLabel('To', { exact: true }).fill('16:30')
    await panel().getByRole('button', { name: 'Filter: everything' }).click()
    await page.getByLabel('Only those').selectOption('with the words…')
    await page.getByLabel('Words, with commas between').fill('Zorblax')
    await page.getByRole('button', { name: 'Add filter' }).click()
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByRole('button', { name: /^Bench hours/ }).waitFor()
    await page.getByRole('button', { name: 'Back to the draft' }).click()
    await until('it stands in its window', async () => (await hourOf('Zorblax lamps')) === '15:00')
    await hem(/^Work window Bench hours, 15:00–16:30: 1 h of 1 h 30 taken/).waitFor()
  })

  it('changes a work window where it is: on one day, from then on, and draws a new one', async () => {
    const usual = hem(/^Work window Bench hours, 15:00–16:30/)
    const all = await usual.count()
    await usual.nth(1).click()
    await page.getByRole('button', { name: /^Which days: only/ }).waitFor()
    await page.getByLabel('To', { exact: true }).fill('16:00')
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await until('one is otherwise', async () => (await usual.count()) === all - 1)
    await hem(/^Work window Bench hours, 15:00–16:00/).click()
    await page.getByRole('button', { name: 'Not on this day' }).click()
    await until(
      'it is not there',
      async () => (await hem(/^Work window Bench hours, 15:00–16:00/).count()) === 0,
    )
    await usual.last().click()
    await page.getByRole('button', { name: /^Which days: only/ }).click()
    await page.getByRole('menuitemradio', { name: 'this day and later ones' }).click()
    await page.getByRole('button', { name: 'Delete' }).click()
    await until('the last is gone', async () => (await usual.count()) === all - 2)

    await page.keyboard.press('n')
    await page.getByRole('combobox', { name: 'What is this time for?' }).fill('Quiet hour')
    await page.getByRole('option', { name: /a work window, at this time each week/ }).click()
    await page.getByLabel('Name').waitFor()
    expect(await page.getByLabel('Name').inputValue()).to.equal('Quiet hour')
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await hem(/^Work window Quiet hour/)
      .first()
      .click()
    await page.getByRole('button', { name: /^Which days: only/ }).click()
    await page.getByRole('menuitemradio', { name: 'all of them' }).click()
    await page.getByRole('button', { name: 'Delete' }).click()
    await until('it is gone', async () => (await hem(/^Work window Quiet hour/).count()) === 0)
    await pieces('Quennip banners').first().waitFor()
  })

  it('becomes blocks where this person keeps their time, and is taken back as a whole', async () => {
    const count = async (): Promise<number> =>
      (await there.events('festival-work')).filter(e => /SUMMARY:(Quennip|Vexil)/.test(e.text)).length
    await panel().getByLabel('What is applied').selectOption({ index: 0 })
    await panel().getByRole('button', { name: 'Apply', exact: true }).click()
    await page.getByText(/Draft applied: \d+ pieces have their time/).waitFor()
    await until('they are there', async () => (await pieces('Quennip banners').count()) === 0)
    const items = async (): Promise<any[]> => (await call('GET', `/cloth?from=${weekDay(0)}&days=14`)).items
    await until('the parts are in the calendar', async () => (await count()) > 1)
    await until('what is whole is planned', async () =>
      (await items()).some(i => i.title === 'Zorblax lamps' && i.place.kind === 'timed'),
    )
    await page.getByRole('button', { name: 'Undo' }).first().click()
    await page.getByText(/The draft: taken back/).waitFor()
    await until('nothing of it is left', async () => {
      const left = (await items()).filter(i => /Quennip|Zorblax|Vexil/.test(i.title))
      return (
        left.length === 3 &&
        left.every(i => i.due === weekDay(3) && i.kind === 'task') &&
        left.every(i => i.place.kind === 'none') &&
        (await count()) === 0
      )
    })
  })

  it('is gone with the page, and nothing of it is left behind', async () => {
    await page.reload()
    await page
      .getByRole('group', { name: /^Vexil ropes/ })
      .first()
      .waitFor()
    expect(await pieces('Vexil ropes').count()).to.equal(0)
    await page.keyboard.press('f')
    await pieces('Vexil ropes').first().waitFor()
    await panel().getByRole('button', { name: 'Discard' }).click()
    await until('it is gone', async () => (await pieces('Vexil ropes').count()) === 0)
  })

  it('plans anew what is planned already, and changes only what is otherwise', async () => {
    const items = async (): Promise<any[]> => (await call('GET', `/cloth?from=${weekDay(0)}&days=14`)).items
    const blocks = async (): Promise<any[]> =>
      (await items()).filter(i => i.title === 'Quennip banners' && i.kind === 'block')
    await page.keyboard.press('f')
    await pieces('Quennip banners').first().waitFor()
    await panel().getByRole('button', { name: 'Apply', exact: true }).click()
    await until('its blocks are there', async () => (await blocks()).length > 1)
    await until('all of it is confirmed', async () => !(await items()).some(i => i.pending))
    const before = (await blocks()).map(b => [b.key, b.place.startMs]).sort()
    if (!(await panel().isVisible())) await page.keyboard.press('f')
    await panel().getByRole('button', { name: 'What is planned already: stays' }).click()
    await page.getByRole('menuitemradio', { name: 'may be moved' }).click()
    await until(
      'they are in the draft',
      async () => (await pieces('Quennip banners').count()) === before.length,
    )
    // One of them is put elsewhere by hand; the others stay as they are.
    await pieces('Quennip banners').first().focus()
    await page.keyboard.press('ArrowRight')
    await pieces('Quennip banners').and(page.locator('[aria-label*="pinned"]')).waitFor()
    await panel().getByRole('button', { name: 'Apply', exact: true }).click()
    await page
      .getByText(/Draft applied|applied\./)
      .first()
      .waitFor()
    await until('one has moved', async () => {
      const now = (await blocks()).map(b => [b.key, b.place.startMs]).sort()
      const same = now.filter(([key, ms]) => before.some(([k, m]) => k === key && m === ms))
      return now.length === before.length && same.length < before.length
    })
    await panel().getByRole('button', { name: 'What is planned already: may be moved' }).click()
    await page.getByRole('menuitemradio', { name: 'stays' }).click()
    await call('PUT', '/me', { settings: { blocksInto: null } })
  })

  it('is kept up by itself where its window says so, tells it once, and comes back', async () => {
    const blocks = async (): Promise<any[]> =>
      (await call('GET', `/cloth?from=${weekDay(0)}&days=7`)).items.filter(
        (i: any) => i.title === 'Quennip banners' && i.kind === 'block' && !i.pending,
      )
    if (!(await panel().isVisible())) await page.keyboard.press('f')
    await panel().getByRole('button', { name: 'Work windows, regulars, travel' }).click()
    await page.getByRole('button', { name: 'Add a work window' }).click()
    await page.getByLabel('Name').fill('Bench days')
    await page.getByLabel('From', { exact: true }).fill('09:00')
    await page.getByLabel('To', { exact: true }).fill('17:00')
    await page.getByLabel('Other work may be drafted into it, too').check()
    await page.getByRole('checkbox', { name: /Keep what is drafted here up/ }).check()
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByText('Bench days: saved.').waitFor()
    const lists = page.getByRole('region', { name: 'Work windows' }).getByRole('listitem')
    const before = await lists.count()
    await page.getByRole('button', { name: 'Bench days: further up' }).click()
    await page.getByText('Bench days: further up.').waitFor()
    await until('the order is kept', async () => {
      const { planning } = await call('GET', '/planning')
      return planning.windows.at(-2)?.name === 'Bench days' && planning.windows.length === before
    })
    await panel().getByRole('button', { name: 'Back to the draft' }).click()
    await panel().getByRole('button', { name: 'Discard' }).click()

    // The last one was not moved by hand; there is room, as the others have gone.
    const all = (await blocks()).sort((x, y) => x.place.startMs - y.place.startMs)
    const last = all.pop()
    for (const { key } of all) await call('POST', `/cloth/${key}/edit`, { do: 'delete' })
    await until('they are gone', async () => (await blocks()).length === 1)
    const start = {
      kind: 'zoned',
      local: new Date(last.place.startMs).toISOString().slice(0, 19),
      zone: 'UTC',
    }
    await call('POST', '/cloth/make', {
      what: 'event',
      title: 'Grumbold calls',
      start,
      minutes: 30,
      into: null,
    })
    await until(
      'it is elsewhere',
      async () => {
        const now = (await blocks()).find(b => b.key === last.key)
        return now && now.place.startMs !== last.place.startMs
      },
      40_000,
    )
    await page.getByText(/Quennip banners went to .*, as “Grumbold calls” is there now/).waitFor()
    await page.goto('/day')
    const card = page.getByRole('region', { name: 'Kept up by itself' })
    await card.getByText('“Grumbold calls” is there now').waitFor()
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/kept-up.png`, fullPage: true })
    await card.getByRole('button', { name: 'Put back' }).first().focus()
    await page.keyboard.press('Enter')
    await page.getByText(/Quennip banners: back where it was, and it stays there/).waitFor()
    await until('it is back', async () => {
      const now = (await blocks()).find(b => b.key === last.key)
      return now?.place.startMs === last.place.startMs
    })
    await card.getByText('put back', { exact: true }).waitFor()
  })

  it('is made for everybody by a coordinator: what is another’s alone they are asked for, and accept', async () => {
    const other = await app.newPage({ height: 1000 })
    await signIn(other, 'tobias@quillmere.example')
    const theirs = callFrom(() => other)
    const { lists } = await theirs('GET', '/sharing')
    const list = lists.find((l: any) => l.own && l.isMine).id
    await theirs('PUT', '/sharing', { changes: [{ list, to: { kind: 'everybody' }, level: 'title' }] })
    const task = { what: 'task', start: null, into: null, said: { due: { kind: 'date', date: weekDay(3) } } }
    await theirs('POST', '/cloth/make', { ...task, title: 'Grumbold rakes', estimate: 60 })
    const { me } = await theirs('GET', '/team')
    await call('POST', '/cloth/make', { ...task, title: 'Grumbold hedges', estimate: 45, for: me })
    const titled = async (title: string): Promise<any> =>
      (await call('GET', `/cloth?from=${weekDay(0)}&days=7`)).items.find(
        (i: any) => i.title === title && i.kind === 'task' && !i.pending && i.people.includes(me),
      )
    await until('both are there', async () => (await titled('Grumbold rakes')) && titled('Grumbold hedges'))

    await page.goto('/cloth')
    await page.locator('[data-key]').first().waitFor()
    await page.keyboard.press('f')
    await panel().getByRole('button', { name: 'Whose work: my work' }).click()
    await page.getByRole('menuitemradio', { name: 'the work of Tobias Lund' }).click()
    await panel().getByText('Only what you see of the others’ time is minded.').waitFor()
    await line('Grumbold rakes').waitFor()
    await line('Grumbold hedges').waitFor()
    await panel().getByRole('button', { name: 'Apply' }).click()
    await page.getByText(/Asked Tobias Lund for one piece/).waitFor()
    await page.keyboard.press('f')
    await panel().getByRole('heading', { name: 'Asked for, not answered yet' }).waitFor()
    await until(
      'what one may write is written',
      async () => (await titled('Grumbold hedges'))?.place.kind === 'timed',
    )
    expect((await titled('Grumbold rakes'))?.place.kind).to.equal('none')

    await other.goto('/team/requests')
    const asked = other.getByRole('listitem', { name: /asks you to give a task its time/ })
    await asked.getByText('Grumbold rakes').waitFor()
    await asked.focus()
    await other.keyboard.press('Enter')
    await other.getByText('One piece has its time.').waitFor()
    await until('it has its time', async () => (await titled('Grumbold rakes'))?.place.kind === 'timed')
    await other.getByRole('button', { name: 'Undo' }).click()
    await asked.waitFor()
    await until('it has none any more', async () => (await titled('Grumbold rakes'))?.place.kind === 'none')
    await other.close()
    await panel()
      .getByRole('button', { name: /^Whose work/ })
      .click()
    await page.getByRole('menuitemradio', { name: 'my work', exact: true }).click()
  })
})
