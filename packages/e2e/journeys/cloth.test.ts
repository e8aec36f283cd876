import { expect } from 'chai'
import type { Locator, Page } from 'playwright-core'
import { type App, signIn, typeDay, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** The Cloth, used as a coordinator would, by mouse and by keyboard; each step is checked at the services. */
describe('the Cloth', function () {
  this.timeout(60_000)
  let app: App
  let page: Page
  let there: ReturnType<typeof otherSide>
  const compact = (day: string, time: string): string => `${day.replace(/-/g, '')}T${time.replace(':', '')}00`

  before(async () => {
    // The beginning of this week, so that nothing of it is left over from a day that has passed.
    app = await startApp({ clock: `${weekDay(0)}T05:30:00Z` })
    there = otherSide(app)
    // Tall enough for the whole shelf to be in reach of the mouse.
    page = await app.newPage({ height: 1200 })
    await signIn(page)
    // Until its rule has tied them, the task and its event stand there each by itself.
    await page
      .getByRole('group', { name: /^Festival map proof/ })
      .first()
      .waitFor()
    await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
  })
  afterEach(async function () {
    // What a person would have seen, for whoever mends it.
    if (this.currentTest?.state === 'failed' && process.env.SHOTS)
      await page.screenshot({
        path: `${process.env.SHOTS}/${this.currentTest.title.slice(0, 30).replace(/\W/g, '-')}.png`,
      })
  })
  after(() => app.close())

  const row = (day: number): Locator => {
    const name = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', weekday: 'long' }).format(
      Date.parse(weekDay(day)),
    )
    return page.getByRole('row', { name: new RegExp(`^${name}`) })
  }
  const item = (name: string): Locator => page.getByRole('group', { name: new RegExp(`^${name}`) })

  /** The point of an hour on a day's row, from the axis as it is drawn. */
  async function pointAt(day: number, time: string): Promise<{ x: number; y: number }> {
    const track = await row(day).locator('[data-drop="hour"]').boundingBox()
    const marks = page.locator('.hours span')
    const first = await marks.first().boundingBox()
    const second = await marks.nth(1).boundingBox()
    const firstHour = Number(await marks.first().textContent())
    if (!track || !first || !second) throw new Error('no axis')
    const [h = 0, m = 0] = time.split(':').map(Number)
    return { x: track.x + (h + m / 60 - firstHour) * (second.x - first.x), y: track.y + track.height / 2 }
  }

  async function drag(
    from: Locator,
    to: { x: number; y: number },
    grab?: { x: number; y: number },
  ): Promise<void> {
    const box = await from.boundingBox()
    if (!box) throw new Error('nothing to hold')
    const at = { x: box.x + (grab?.x ?? box.width / 3), y: box.y + (grab?.y ?? box.height / 2) }
    await page.mouse.move(at.x, at.y)
    await page.mouse.down()
    await page.mouse.move(at.x + 6, at.y - 4, { steps: 3 })
    await page.mouse.move(to.x, to.y, { steps: 8 })
    await page.mouse.up()
  }

  it('places a task from the shelf at an hour: the calendar gets an event, the deadline stays', async () => {
    await drag(item('Print route cards'), await pointAt(2, '10:00'))
    await row(2)
      .getByRole('group', { name: /^Print route cards.*10:00–10:30/ })
      .waitFor()
    const event = await until('the event', () => there.event('festival-work', 'Print route cards'))
    expect(event.start).to.equal(compact(weekDay(2), '10:00'))
    const task = await there.task('festival', 'Print route cards')
    expect(task).to.include({ day: weekDay(2), hour: '10:00', finish_by: weekDay(4) })
  })

  it('shows where a held item would land and what that does to the day, before it is let go', async () => {
    const box = await item('Print route cards').boundingBox()
    const to = await pointAt(4, '14:00')
    if (!box) throw new Error('nothing to hold')
    await page.mouse.move(box.x + 12, box.y + box.height - 6)
    await page.mouse.down()
    await page.mouse.move(to.x + 12, to.y, { steps: 8 })
    await row(4)
      .getByText(/^14:00–14:30 · 5 h 30 of 6 h 30$/)
      .waitFor()
    await page.keyboard.press('Escape')
    await page.mouse.up()
    await row(2)
      .getByRole('group', { name: /^Print route cards/ })
      .waitFor()
  })

  it('shows without a reload what was moved in the calendar', async () => {
    const event = await until('the event', () => there.event('festival-work', 'Print route cards'))
    const moved = event.text
      .replace(/(DTSTART;TZID.*)T\d+/, '$1T113000')
      .replace(/(DTEND;TZID.*)T\d+/, '$1T123000')
    await there.put(event.url, moved)
    await row(2)
      .getByRole('group', { name: /^Print route cards.*11:30–12:30/ })
      .waitFor()
    await until(
      'the task followed',
      async () => (await there.task('festival', 'Print route cards'))?.hour === '11:30',
    )
  })

  it('moves and lengthens a block by mouse', async () => {
    const block = item('Print route cards')
    const to = await pointAt(3, '12:00')
    await drag(block, { x: to.x + 12, y: to.y }, { x: 12, y: 44 })
    await row(3)
      .getByRole('group', { name: /^Print route cards.*12:00–13:00/ })
      .waitFor()
    await until(
      'the event moved',
      async () =>
        (await there.event('festival-work', 'Print route cards'))?.start === compact(weekDay(3), '12:00'),
    )
    const box = await block.boundingBox()
    const end = await pointAt(3, '13:30')
    await drag(block, { x: end.x, y: end.y }, { x: (box?.width ?? 0) - 2, y: 20 })
    await row(3)
      .getByRole('group', { name: /^Print route cards.*12:00–13:30/ })
      .waitFor()
    await until(
      'the event is longer',
      async () =>
        (await there.event('festival-work', 'Print route cards'))?.end === compact(weekDay(3), '13:30'),
    )
  })

  it('shows a task ticked at its service as done, and marks its event', async () => {
    const task = await there.task('festival', 'Write lantern brief')
    await there.editTask(task?.id ?? '', { ticked: true })
    await page.getByRole('checkbox', { name: 'Reopen Write lantern brief' }).waitFor()
    await until('the event is marked', () => there.event('festival-work', '✓ Write lantern brief'))
    await page.getByRole('checkbox', { name: 'Reopen Write lantern brief' }).click()
    await page.getByRole('checkbox', { name: 'Complete Write lantern brief' }).waitFor()
    await until('it is open there', async () => (await there.taskById(task?.id ?? '')).ticked === false)
  })

  it('takes a block back to the shelf by dragging, and undoes it from the message', async () => {
    const shelf = await page.getByRole('region', { name: 'Shelf' }).boundingBox()
    await drag(
      item('Print route cards'),
      { x: (shelf?.x ?? 0) + 400, y: (shelf?.y ?? 0) + 20 },
      { x: 60, y: 18 },
    )
    await until('the event is gone', async () => !(await there.event('festival-work', 'Print route cards')))
    expect(await there.task('festival', 'Print route cards')).to.include({ day: null, finish_by: weekDay(4) })
    await page
      .getByRole('status')
      .getByText(/back on the shelf/)
      .waitFor()
    await page.getByRole('button', { name: 'Undo' }).last().click()
    await row(3)
      .getByRole('group', { name: /^Print route cards.*12:00–13:30/ })
      .waitFor()
    const event = await until('the event is there again', () =>
      there.event('festival-work', 'Print route cards'),
    )
    expect([event.start, event.end]).to.deep.equal([
      compact(weekDay(3), '12:00'),
      compact(weekDay(3), '13:30'),
    ])
  })

  it('does all of it by keyboard: place, move, lengthen, complete, back to the shelf', async () => {
    const find = (): Locator => item('Call bus company')
    await find().focus()
    await page.keyboard.press('p')
    const dialog = page.getByRole('dialog', { name: /Call bus company/ })
    await typeDay(dialog.getByLabel('Day', { exact: true }), weekDay(4))
    await dialog.getByLabel('Starts').fill('13:00')
    await dialog.getByRole('button', { name: 'Place' }).click()
    await row(4)
      .getByRole('group', { name: /^Call bus company.*13:00–13:30/ })
      .waitFor()
    await until(
      'the event',
      async () =>
        (await there.event('festival-work', 'Call bus company'))?.start === compact(weekDay(4), '13:00'),
    )

    /** A person looks what a key did before the next one; by then it stands at the other side, too. */
    const begins = (day: number, hour: string) =>
      until('the event has followed', async () => {
        const event = await there.event('festival-work', 'Call bus company')
        return event?.start === compact(weekDay(day), hour)
      })
    await find().focus()
    await find().press('ArrowRight')
    await row(4)
      .getByRole('group', { name: /^Call bus company.*13:15–13:45/ })
      .waitFor()
    await begins(4, '13:15')
    await find().press('ArrowUp')
    await row(3)
      .getByRole('group', { name: /^Call bus company.*13:15–13:45/ })
      .waitFor()
    await begins(3, '13:15')
    await find().press('Shift+ArrowRight')
    await row(3)
      .getByRole('group', { name: /^Call bus company.*13:15–14:00/ })
      .waitFor()
    await until('the event followed each key', async () => {
      const event = await there.event('festival-work', 'Call bus company')
      return event?.start === compact(weekDay(3), '13:15') && event.end === compact(weekDay(3), '14:00')
    })

    // Key after key, without waiting for what each did: the item goes to other rows and back, and keeps the focus.
    await find().focus()
    for (const key of [
      'ArrowRight',
      'ArrowDown',
      'ArrowRight',
      'ArrowUp',
      'ArrowRight',
      'ArrowDown',
      'ArrowUp',
    ])
      await page.keyboard.press(key)
    await row(3)
      .getByRole('group', { name: /^Call bus company.*14:00–14:45/ })
      .waitFor()
    await begins(3, '14:00')

    await find().press('Space')
    await until('the event is marked', () => there.event('festival-work', '✓ Call bus company'))
    await find().press('Space')
    await until('the mark is off', () => there.event('festival-work', 'Call bus company'))
    await find().press('Enter')
    await page
      .getByRole('dialog', { name: 'Call bus company' })
      .getByRole('button', { name: /Back to the shelf/ })
      .press('Enter')
    await until('the event is gone', async () => !(await there.event('festival-work', 'Call bus company')))
    expect((await there.task('festival', 'Call bus company'))?.day).to.equal(null)
  })

  it('takes back by a key what was done last, and then what was done before that', async () => {
    const proof = item('Festival map proof').first()
    const label = () => proof.getAttribute('aria-label')
    const before = await label()
    const start = (await there.event('festival-work', 'Festival map proof'))?.start
    await proof.focus()
    for (const key of ['ArrowRight', 'Shift+ArrowRight']) {
      const now = await label()
      await page.keyboard.press(key)
      await until(`${key} did something`, async () => (await label()) !== now)
    }
    await until(
      'it has moved there',
      async () => (await there.event('festival-work', 'Festival map proof'))?.start !== start,
    )
    await page.keyboard.press('z')
    await page
      .getByRole('status')
      .getByText(/^Taking back: Festival map proof: now/)
      .waitFor()
    // The page is loaded anew in between: what was done before that can be taken back all the same.
    await until('that has arrived', async () => !(await page.locator('[data-key].pending').count()))
    await page.reload()
    await proof.waitFor()
    await page.keyboard.press('Control+z')
    await until('it is where it was', async () => (await label()) === before)
    await until(
      'there, too',
      async () => (await there.event('festival-work', 'Festival map proof'))?.start === start,
    )
  })

  it('moves the focus as items lie, to the shelf and back', async () => {
    const focused = () =>
      page.evaluate(() => {
        const at = document.activeElement?.closest<HTMLElement>('[data-key]')
        return at ? `${at.closest<HTMLElement>('[data-area]')?.dataset.area} ${at.dataset.key}` : null
      })
    const first = page.locator('[data-area="cloth"] [data-key]').first()
    await first.focus()
    const begun = await focused()
    await page.keyboard.press('Control+End')
    const end = await focused()
    expect(end)
      .to.match(/^cloth /)
      .and.not.equal(begun)
    await page.keyboard.press('Control+Home')
    expect(await focused()).to.equal(begun)
    await page.keyboard.press('Control+ArrowDown')
    const below = await focused()
    expect(below)
      .to.match(/^cloth /)
      .and.not.equal(begun)
    await page.keyboard.press('s')
    expect(await focused()).to.match(/^shelf /)
    await page.keyboard.press('s')
    expect(await focused()).to.equal(below)
  })

  it('goes on by keys from what was just ticked by mouse', async () => {
    const id = (await there.task('festival', 'Thank lantern sponsors'))?.id ?? ''
    await item('Thank lantern sponsors').getByRole('checkbox').click()
    await until('it is done', async () => (await there.taskById(id)).ticked)
    await page.keyboard.press('?')
    const keys = page.getByRole('dialog', { name: 'Keyboard shortcuts' })
    await keys.waitFor()
    await page.keyboard.press('Escape')
    await keys.waitFor({ state: 'hidden' })
    await page.getByRole('button', { name: 'Undo' }).last().click()
    await until('it is open again', async () => !(await there.taskById(id)).ticked)
  })

  it('lists a task for a day without an hour at the head of the row, and makes no event', async () => {
    // Rows change their height while what was there before goes; a person waits for that, too.
    const shelf = page.getByRole('region', { name: 'Shelf' })
    await shelf.getByRole('group', { name: /^Call bus company/ }).waitFor()
    await until('the other day is low again', async () => ((await row(3).boundingBox())?.height ?? 99) < 70)
    const head = await row(4).locator('[data-drop="day"]').boundingBox()
    await drag(item('Photograph loans'), {
      x: (head?.x ?? 0) + 60,
      y: (head?.y ?? 0) + (head?.height ?? 0) / 2,
    })
    await row(4)
      .getByRole('group', { name: /^Photograph loans/ })
      .waitFor()
    await until(
      'the task has the day',
      async () => (await there.task('festival', 'Photograph loans'))?.day === weekDay(4),
    )
    expect((await there.task('festival', 'Photograph loans'))?.hour).to.equal(null)
    expect(await there.event('festival-work', 'Photograph loans')).to.equal(undefined)
  })

  it('takes an edit back with the reason when the service refuses it', async () => {
    await there.fault('garden', { status: 403, method: 'PUT', times: 1 })
    await item('Week look-back').focus()
    await page.keyboard.press('ArrowRight')
    await page
      .getByRole('status')
      .getByText('Week look-back: not changed. The calendar server refused it (status 403).')
      .waitFor()
    await row(4)
      .getByRole('group', { name: /^Week look-back.*15:00–16:00/ })
      .waitFor()
    await there.fault('garden', {})
  })

  it('finds by what the words name: a list, whose it is, how urgent', async () => {
    const field = page.getByRole('combobox', { name: /^Add, search/ })
    const found = page.getByRole('option', { name: /Festival map proof/ })
    await field.fill('proof Festival list')
    await page.getByText('list Festival').waitFor()
    await found.waitFor()
    await field.fill('proof Small repairs list')
    await page.getByText('list Small repairs').waitFor()
    await found.waitFor({ state: 'detached' })
    await field.press('Escape')
  })

  it('opens what was found though it is on no day and no longer on the shelf', async () => {
    const id = (await there.task('festival', 'Thank lantern sponsors'))?.id ?? ''
    await there.editTask(id, { ticked: true })
    await item('Thank lantern sponsors').waitFor({ state: 'detached' })
    await page.getByRole('combobox', { name: /^Add, search/ }).fill('lantern sponsors')
    await page.getByRole('option', { name: /Thank lantern sponsors/ }).click()
    const drawer = page.getByRole('complementary', { name: /^Details of Thank lantern sponsors/ })
    await drawer.getByRole('checkbox', { name: /^Reopen/ }).click()
    await until('it is open again', async () => !(await there.taskById(id)).ticked)
    await drawer.getByRole('button', { name: 'Close' }).click()
    await item('Thank lantern sponsors').waitFor()
  })

  it('goes through the weeks and says what is shown', async () => {
    await page.getByRole('button', { name: 'The week after' }).click()
    await page.waitForURL(url => url.searchParams.has('at'))
    await row(1).waitFor()
    await page.getByRole('button', { name: 'This week', exact: true }).click()
    await item('Festival map proof').waitFor()
  })

  it('is opened with one question for its days, its views and one’s settings, asked before its code has run', async () => {
    const other = await app.newPage()
    await other.context().addCookies(await page.context().cookies())
    await other.goto('/cloth')
    await other.getByRole('group').first().waitFor()
    const asked = await other.evaluate(() => {
      const all = performance.getEntriesByType('resource') as PerformanceResourceTiming[]
      const code = all.find(r => /assets\/first-.*\.js/.test(r.name))
      return all.flatMap(r => {
        const what = /\/api\/(cloth|views|me)\b/.exec(r.name)?.[1]
        return what ? [`${what} ${r.startTime < (code?.responseEnd ?? 0) ? 'early' : 'late'}`] : []
      })
    })
    expect(asked.sort()).to.deep.equal(['cloth early', 'me early', 'views early'])
    // Where the page begins with other days, what came with it is not shown later, when it is old.
    await other.getByRole('radio', { name: 'Day', exact: true }).click()
    await other.reload()
    await other.getByRole('group').first().waitFor()
    const later = `${app.standins}/garden/dav/calendars/ines/garden-team/later.ics`
    await there.put(
      later,
      [
        'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:later\r\nDTSTAMP:20260101T000000Z',
        `DTSTART:${compact(weekDay(5), '12:00')}Z\r\nDURATION:PT1H\r\nSUMMARY:Came later`,
        'END:VEVENT\r\nEND:VCALENDAR\r\n',
      ].join('\r\n'),
    )
    await item('Came later').first().waitFor()
    await other.getByRole('radio', { name: 'Week', exact: true }).click()
    await other
      .getByRole('group', { name: /^Came later/ })
      .first()
      .waitFor()
    await fetch(later, { method: 'DELETE', headers: { Authorization: `Basic ${btoa('ines:moonflower')}` } })
    await item('Came later').first().waitFor({ state: 'detached' })
    await other.context().close()
  })

  it('says what is now whichever days are shown, and makes it longer from there', async () => {
    const known = await until('an event', () => there.event('festival-work', 'Festival map proof'))
    const url = known.url.replace('festival-work', 'garden-team').replace(/[^/]+$/, 'count-bulbs.ics')
    const at = (time: string): string => `TZID=Europe/Dublin:${compact(weekDay(0), time)}`
    const event = `UID:count-bulbs\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;${at('05:00')}\r\nDTEND;${at('08:00')}`
    const calendar = 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\nBEGIN:VEVENT'
    await there.put(
      url,
      `${calendar}\r\n${event}\r\nSUMMARY:Count the bulbs\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`,
    )
    const strip = page.getByRole('region', { name: 'Now and next' })
    const now = strip.getByRole('button', { name: 'Count the bulbs' })
    await now.waitFor()
    await page.getByRole('button', { name: 'The week after' }).click()
    await item('Festival map proof').waitFor({ state: 'detached' })
    await now.waitFor()
    await strip.getByRole('button', { name: '15 min more' }).click()
    await until('the calendar has it', async () =>
      (await there.event('garden-team', 'Count the bulbs'))?.text.includes('T081500'),
    )
    await strip.getByText('until 08:15').waitFor()
    await page.getByRole('radio', { name: 'Month' }).click()
    await now.waitFor()
    await page.getByRole('radio', { name: 'Week', exact: true }).click()
    await page.getByRole('button', { name: 'This week', exact: true }).click()
    await item('Count the bulbs').waitFor()
  })

  it('goes on from the new page where the server was renewed and parts of the old one are gone', async () => {
    let asked = 0
    await page.route('**/assets/JournalView-*.js', route =>
      ++asked === 1 ? route.fulfill({ status: 404, body: '' }) : route.continue(),
    )
    await page.getByRole('link', { name: 'Journal' }).click()
    await page.getByRole('heading', { name: 'Journal' }).waitFor()
    expect(asked).to.equal(2)
    expect(new URL(page.url()).pathname).to.equal('/journal')
  })
})
