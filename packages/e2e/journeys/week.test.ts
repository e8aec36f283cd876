import { expect } from 'chai'
import type { Locator, Page } from 'playwright-core'
import { choose, type App, signIn, typeDay, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** A coordinator's Monday on the Cloth: seeing it in different ways, making room, batching, putting by. */
describe('a week on the Cloth', function () {
  this.timeout(60_000)
  let app: App
  let page: Page
  let there: ReturnType<typeof otherSide>

  before(async () => {
    app = await startApp({ clock: `${weekDay(0)}T05:30:00Z` })
    there = otherSide(app)
    page = await app.newPage({ height: 1200 })
    await signIn(page)
    await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
    await item('Festival map proof').waitFor()
  })
  afterEach(async function () {
    // What a person would have seen, for whoever mends it.
    if (this.currentTest?.state === 'failed' && process.env.SHOTS)
      await page.screenshot({
        path: `${process.env.SHOTS}/${this.currentTest.title.slice(0, 30).replace(/\W/g, '-')}.png`,
      })
  })
  after(() => app.close())

  const item = (name: string): Locator => page.getByRole('group', { name: new RegExp(`^${name}`) }).first()
  const row = (day: number): Locator => {
    const name = new Intl.DateTimeFormat('en-GB', { timeZone: 'UTC', weekday: 'long' }).format(
      Date.parse(weekDay(day)),
    )
    return page.getByRole('row', { name: new RegExp(`^${name}`) })
  }
  const span = (name: string): Promise<void> => page.getByRole('radio', { name, exact: true }).click()
  async function pointAt(day: number, time: string): Promise<{ x: number; y: number }> {
    const track = await row(day).locator('[data-drop="hour"]').boundingBox()
    const [first, second] = [page.locator('.hours span').first(), page.locator('.hours span').nth(1)]
    const [a, b] = [await first.boundingBox(), await second.boundingBox()]
    if (!track || !a || !b) throw new Error('no axis')
    const [h = 0, m = 0] = time.split(':').map(Number)
    const from = Number((await first.textContent())?.trim())
    return { x: track.x + (h + m / 60 - from) * (b.x - a.x), y: track.y + track.height - 8 }
  }
  async function draw(day: number, from: string, to: string): Promise<void> {
    const [a, b] = [await pointAt(day, from), await pointAt(day, to)]
    await page.mouse.move(a.x + 1, a.y)
    await page.mouse.down()
    await page.mouse.move(b.x + 1, b.y, { steps: 6 })
    await page.mouse.up()
  }
  /** `keys`: pressed one after the other before it is let go. */
  async function dragTo(
    from: Locator,
    to: { x: number; y: number },
    held?: 'Control',
    keys = '',
  ): Promise<void> {
    const box = await from.boundingBox()
    if (!box) throw new Error('nothing to hold')
    await page.mouse.move(box.x + box.width / 2, box.y + 8)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width / 2 + 8, box.y + 4, { steps: 3 })
    if (held) await page.keyboard.down(held)
    await page.mouse.move(to.x, to.y, { steps: 8 })
    for (const key of keys) await page.keyboard.press(key)
    await page.mouse.up()
    if (held) await page.keyboard.up(held)
  }
  const said = (text: RegExp): Promise<void> => page.getByRole('status').getByText(text).last().waitFor()

  it('draws a span and gives it to a batch, which takes tasks that are dropped on it', async () => {
    await draw(2, '10:30', '12:00')
    const dialog = page.getByRole('dialog', { name: /^Add time, Wednesday.*10:30–12:00/ })
    await dialog.getByRole('combobox', { name: 'What is this time for?' }).fill('Calls')
    await dialog.getByRole('option', { name: /a batch/ }).click()
    const batch = row(2).getByRole('group', { name: /^Calls.*batch/ })
    await batch.waitFor()
    await until('it is settled', async () => (await batch.getAttribute('data-drag')) === 'block')
    for (const task of ['Call bus company', 'Choose the paper']) {
      const box = await batch.boundingBox()
      if (!box) throw new Error('no batch')
      await dragTo(item(task), { x: box.x + box.width / 2, y: box.y + box.height - 6 })
      await said(new RegExp(`${task}: into Calls`))
    }
    await batch.getByText('2 of 2 open').waitFor()
    await page.getByRole('checkbox', { name: 'Complete Call bus company' }).first().click()
    await until(
      'it is done at its list',
      async () => (await there.task('festival', 'Call bus company')) === undefined,
    )
    await batch.getByText('1 of 2 open').waitFor()
  })

  it('makes an event with a guest from outside, invites a colleague to it, and takes that back', async () => {
    await draw(3, '17:00', '17:30')
    const dialog = page.getByRole('dialog', { name: /^Add time, Thursday/ })
    await dialog.getByRole('combobox', { name: 'What is this time for?' }).fill('Glass supper')
    const outside = dialog.getByRole('textbox', { name: 'Guests from outside' })
    await outside.fill('mei at home')
    await dialog
      .getByRole('option', { name: /an event|a meeting/ })
      .first()
      .click()
    await dialog.getByRole('alert').getByText('“mei at home” is no mail address.').waitFor()
    await outside.fill('mei@else.example')
    await dialog
      .getByRole('option', { name: /an event|a meeting/ })
      .first()
      .click()
    const supper = row(3).getByRole('group', { name: /^Glass supper/ })
    await supper.waitFor()
    await until('it is settled', async () => (await supper.getAttribute('data-key'))?.length === 36)
    await supper.focus()
    await page.keyboard.press('o')
    const drawer = page.getByRole('complementary', { name: /^Details of Glass supper/ })
    await drawer.getByText('mei@else.example').waitFor()
    const invite = drawer.getByRole('combobox', { name: 'Invite somebody' })
    await invite.fill('tob')
    await page.getByText('Tobias Lund · tobias@').waitFor()
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('Enter')
    await said(/Glass supper: .*invited/)
    await drawer.getByRole('button', { name: 'Do not invite Tobias Lund' }).waitFor()
    await page.getByRole('button', { name: 'Undo' }).click()
    await drawer.getByRole('button', { name: 'Do not invite Tobias Lund' }).waitFor({ state: 'detached' })
    await drawer.getByRole('button', { name: 'Close' }).click()
  })

  it('reserves further time for a task that has a time, and gives it back with the task done', async () => {
    const free = await pointAt(4, '13:00')
    await dragTo(row(1).getByRole('group', { name: /^Festival map proof/ }), free, 'Control')
    const block = row(4).getByRole('group', { name: /^Festival map proof.*work block/ })
    await block.waitFor()
    expect(await there.event('festival-work', 'Festival map proof').then(e => e?.start)).to.match(
      /^\d{8}T153000$/,
    )
    await item('Festival map proof').focus()
    await page.keyboard.press('o')
    const drawer = page.getByRole('complementary', { name: /^Details of Festival map proof/ })
    await drawer.getByText(/2 h reserved|h reserved/).waitFor()
    await drawer.getByRole('button', { name: 'Close' }).click()
    const task = await there.task('festival', 'Festival map proof')
    await there.editTask(task?.id ?? '', { ticked: true })
    await block.waitFor({ state: 'detached' })
  })

  it('lightens an overfull day from its load, and puts by what can wait', async () => {
    const load = row(1).getByRole('button', { name: /^Load of Tuesday/ })
    await load.click()
    const panel = page.getByRole('dialog', { name: 'Load' })
    await panel.getByText(/too much/).waitFor()
    await panel.getByRole('button', { name: 'Call seed partners: any day this week' }).click()
    await page
      .getByRole('group', { name: 'Any day this week' })
      .getByRole('group', { name: /^Call seed partners/ })
      .waitFor()
    await item('Posters').focus()
    await page.keyboard.press('y')
    await page
      .getByRole('dialog', { name: /Put “Posters” by/ })
      .getByRole('button', { name: 'Without a date' })
      .click()
    await item('Posters').waitFor({ state: 'detached' })
    await page.getByRole('button', { name: '1 put by' }).click()
    await page.getByRole('button', { name: 'Posters: back now' }).click()
    await page.getByRole('complementary', { name: 'Put by' }).getByRole('button', { name: 'Close' }).click()
    await item('Posters').waitFor()
  })

  it('does to several at once what is done to one, and takes it back as one', async () => {
    const three = ['Read the last proof', 'Merge duplicate taxa', 'Repaint sign']
    for (const name of three) await item(name).click({ modifiers: ['Control'] })
    const bar = page.getByRole('region', { name: 'Chosen items' })
    await bar.getByText(/^3 chosen · 1 h 30$/).waitFor()
    await dragTo(item(three[0] ?? ''), await pointAt(4, '12:15'))
    await row(4)
      .getByRole('group', { name: /^Read the last proof.*12:15–12:45/ })
      .waitFor()
    await row(4)
      .getByRole('group', { name: /^Merge duplicate taxa.*12:45–13:15/ })
      .waitFor()
    await row(4)
      .getByRole('group', { name: /^Repaint sign.*13:15–13:45/ })
      .waitFor()
    await said(/^3 items/)
    await page.getByRole('button', { name: 'Undo' }).last().click()
    for (const name of three)
      await page
        .getByRole('region', { name: 'Shelf' })
        .getByRole('group', { name: new RegExp(`^${name}`) })
        .waitFor()
    // By keyboard: choose with a key, then one key for both.
    for (const name of three.slice(0, 2)) {
      await item(name).focus()
      await page.keyboard.press('c')
    }
    await page.keyboard.press('w')
    const anyDay = page.getByRole('group', { name: 'Any day this week' })
    for (const name of three.slice(0, 2))
      await anyDay.getByRole('group', { name: new RegExp(`^${name}`) }).waitFor()
  })

  it('writes down a line of plain words, finds it again, and drags it from there', async () => {
    await page.locator('h1').click()
    await page.keyboard.press('.')
    await page.keyboard.type('Ring the lantern maker Thursday 16:30 for 45 min, Festival list, urgent')
    await page.getByText('planned').waitFor()
    await page.getByRole('option', { name: /^Ring the lantern maker/ }).waitFor()
    await page.keyboard.press('Enter')
    await until('it is at its list', async () => {
      const task = await there.task('festival', 'Ring the lantern maker')
      return task?.day === weekDay(3) && task.hour === '16:30'
    })
    await row(3)
      .getByRole('group', { name: /^Ring the lantern maker.*16:30–17:15/ })
      .waitFor()
    await page.keyboard.press('.')
    await page.keyboard.type('trustees')
    await page.getByRole('option', { name: /^Trustees: festival budget/ }).waitFor()
    await page.keyboard.press('Escape')
    await page.keyboard.press('.')
    await page.keyboard.type('lantern maker')
    // It has its time: this is further time for it, which a key keeps in a calendar, free and private.
    const found = page.getByRole('option', { name: /^Ring the lantern maker/ })
    await dragTo(found, await pointAt(4, '14:00'), undefined, 'kfv')
    await until('it is in the calendar', async () =>
      (await there.events('festival-work')).some(
        e =>
          e.summary === 'Ring the lantern maker' &&
          e.start === `${weekDay(4).replace(/-/g, '')}T140000` &&
          /TRANSP:TRANSPARENT/.test(e.text) &&
          /CLASS:PRIVATE/.test(e.text),
      ),
    )
    await row(4)
      .getByRole('group', { name: /^Ring the lantern maker.*work block/ })
      .waitFor()
    expect(await there.task('festival', 'Ring the lantern maker')).to.include({
      day: weekDay(3),
      hour: '16:30',
    })
    await page.getByRole('button', { name: 'Undo' }).last().click()
    await until('it is in the calendar no longer', async () =>
      (await there.events('festival-work')).every(e => !/CLASS:PRIVATE/.test(e.text)),
    )
    expect(
      await page.getByRole('listbox', { name: 'What it could be' }).count(),
      'the list is gone',
    ).to.equal(0)
  })

  it('credits the time of a block, and ends its task with it if one says so', async () => {
    const task = row(3).getByRole('group', { name: /^Ring the lantern maker.*16:30–17:15/ })
    await dragTo(task, await pointAt(4, '15:00'), 'Control')
    const block = row(4).getByRole('group', { name: /^Ring the lantern maker.*work block/ })
    await block.waitFor()
    await block.focus()
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'Mark as worked, and complete its task' }).click()
    await until(
      'it is done at its list',
      async () => (await there.task('festival', 'Ring the lantern maker')) === undefined,
    )
    await row(4)
      .getByRole('group', { name: /^Ring the lantern maker.*worked/ })
      .waitFor()
  })

  it('shows people, a month and a list, keeps a view, and says what it hides', async () => {
    await span('People')
    await page.getByRole('row', { name: 'Tobias Lund' }).waitFor()
    await span('Day')
    await page.getByRole('row', { name: /^Anouk Thapa, Monday/ }).waitFor()
    await page.getByRole('button', { name: /^Saved views/ }).click()
    await page.getByRole('button', { name: 'Save this as a view…' }).click()
    const naming = page.getByRole('dialog', { name: 'Save as a view' })
    await naming.getByLabel('Name of the view').fill('Who is where')
    await naming.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByRole('button', { name: 'Saved views: Who is where' }).waitFor()
    await span('Month')
    await page.getByText('changed', { exact: true }).waitFor()
    await page.reload()
    await page.getByRole('radio', { name: 'Month', checked: true }).waitFor()
    await page.getByRole('button', { name: 'Revert' }).click()
    await page.getByRole('row', { name: /^Anouk Thapa/ }).waitFor()
    await page.getByRole('button', { name: /^Saved views/ }).click()
    await page.getByRole('button', { name: 'No saved view' }).click()
    await item('Festival map proof').waitFor()
    await page.getByRole('button', { name: /^Filter/ }).click()
    await page.getByLabel('Only those').selectOption('with the words…')
    await page.getByLabel('Words, with commas between').fill('lantern')
    await page.getByRole('button', { name: 'Add filter' }).click()
    await item('Gutter survey').waitFor({ state: 'detached' })
    await item('Write lantern brief').focus()
    await page.keyboard.press('r')
    await page.getByRole('dialog', { name: 'Rename' }).getByLabel('Title').fill('Write the brief')
    await page.keyboard.press('Enter')
    await said(/not in sight: this view’s filter/)
    await page.getByRole('button', { name: 'Show it' }).click()
    await item('Write the brief').waitFor()
  })

  it('puts the shelf in an order of one’s own by dragging, cards and whole groups', async () => {
    const group = (name: string): Locator => page.getByRole('group', { name, exact: true })
    await page.getByRole('button', { name: 'what presses most first' }).click()
    await page.getByText('in my own order').last().click()
    const cards = group('Due within 7 days').locator('[data-key]')
    const titles = () => cards.evaluateAll(all => all.map(c => c.getAttribute('aria-label')?.split(',')[0]))
    const [first, second, third] = await titles()
    await cards.nth(0).scrollIntoViewIfNeeded()
    const below = await cards.nth(1).boundingBox()
    if (!below) throw new Error('no second card')
    await dragTo(cards.nth(0), { x: below.x + 60, y: below.y + below.height - 6 })
    await until(
      'it lies after the other',
      async () => (await titles()).join() === [second, first, ...(await titles()).slice(2)].join(),
    )
    expect((await titles())[2]).to.equal(third)
    const names = () => page.locator('.shelf h3 .name').allInnerTexts()
    const before = await names()
    await page.locator('.shelf h3').nth(0).dragTo(page.locator('.shelf h3').nth(1))
    await until('the groups have changed places', async () => (await names())[0] === before[1])
    await page.getByRole('button', { name: 'Reset' }).click()
    await until('all is as it was', async () => (await names())[0] === before[0])
  })

  it('asks which dates of a series are meant, changes that one, and takes it back', async () => {
    await row(2)
      .getByRole('group', { name: /^Morning walk-round/ })
      .focus()
    await page.keyboard.press('ArrowRight')
    await page
      .getByRole('dialog', { name: /Change “Morning walk-round”/ })
      .getByRole('button', { name: 'This one' })
      .click()
    await row(2)
      .getByRole('group', { name: /^Morning walk-round.*08:30/ })
      .waitFor()
    await row(3)
      .getByRole('group', { name: /^Morning walk-round.*08:15/ })
      .waitFor()
    await until('it is an override there', async () => {
      const event = await there.event('garden-team', 'Morning walk-round')
      return /RECURRENCE-ID/.test(event?.text ?? '')
    })
    await page.getByRole('button', { name: 'Undo' }).last().click()
    await row(2)
      .getByRole('group', { name: /^Morning walk-round.*08:15/ })
      .waitFor()
  })

  it('keeps what was done while the server cannot be reached, and sends it after', async () => {
    await item('Gutter survey').focus()
    await page.context().setOffline(true)
    await page.keyboard.press('w')
    await page
      .getByRole('status')
      .getByText(/kept here and sent when it is back/)
      .waitFor()
    await page.context().setOffline(false)
    await page
      .getByRole('status')
      .getByText(/Gutter survey.*any day in the week/)
      .waitFor()
  })

  it('tells the same hour in Dublin and in Kathmandu, with a second axis for the other', async () => {
    const other = await app.newPage({ height: 1000 })
    await signIn(other, 'anouk@quillmere.example')
    const label = /^Trustees: festival budget, Monday.*15:15–16:45/
    await other.getByRole('group', { name: label }).waitFor()
    await other.getByRole('button', { name: /^A second time zone/ }).click()
    await other
      .getByRole('menuitemradio', { name: /Europe\/Dublin/ })
      .first()
      .click()
    const marks = other.locator('.hours.two span')
    const told = await marks.allTextContents()
    const [first = ''] = told
    // Five hours and three quarters apart, above each hour of one's own.
    const [, dublin = '', own = ''] = /(\d\d:\d\d)\s*(\d\d)/.exec(first) ?? []
    const minutes = (text: string): number => Number(text.slice(0, 2)) * 60 + Number(text.slice(3) || 0)
    expect((minutes(`${own}:00`) - minutes(dublin) + 1440) % 1440).to.equal(345)
    await other.reload()
    await other.locator('.hours.two').waitFor()
    // On her own clock, and nobody else's.
    await other.getByRole('button', { name: /^Account of Anouk/ }).click()
    await other.getByRole('link', { name: 'My settings' }).click()
    await choose(other.getByLabel('How hours are told'), 'from 1 to 12 (2:30 pm)')
    await other.getByRole('button', { name: 'Save' }).click()
    await other.getByText('Saved.').waitFor()
    await other.getByRole('link', { name: 'Cloth', exact: true }).click()
    await other.getByRole('group', { name: /^Trustees: festival budget, Monday.*3:15 pm–4:45 pm/ }).waitFor()
    await other.close()
    await page.getByRole('group', { name: /^Trustees: festival budget, Monday.*09:30–11:00/ }).waitFor()
  })

  it('goes through everything about an item in its drawer, and writes what is changed there', async () => {
    await item('Thank lantern sponsors').focus()
    await page.keyboard.press('o')
    const drawer = page.getByRole('complementary', { name: /^Details of Thank lantern sponsors/ })
    await drawer.getByText(/^Bench List · Festival/).waitFor()
    await typeDay(drawer.getByLabel('Due'), weekDay(9))
    await until(
      'its deadline is there',
      async () => (await there.task('festival', 'Thank lantern sponsors'))?.finish_by === weekDay(9),
    )
    await drawer.getByRole('button', { name: /notes$/ }).click()
    await drawer.getByLabel('Notes').last().fill('**Six** letters\n<img src=x onerror=alert(1)>')
    await drawer.getByRole('button', { name: 'Save' }).click()
    await drawer.locator('strong', { hasText: 'Six' }).waitFor()
    expect(await drawer.locator('.notes img').count(), 'text is text').to.equal(0)
    await until('its notes are there', async () =>
      (await there.task('festival', 'Thank lantern sponsors'))?.details.startsWith('**Six** letters'),
    )
    await drawer.getByText('renamed by hand').waitFor({ state: 'detached' })
    await drawer.getByRole('button', { name: 'Close' }).click()
  })

  it('moves a task to another list, and takes that back from the message', async () => {
    await item('Thank lantern sponsors').click({ button: 'right' })
    await page.getByRole('button', { name: 'Move to another list…' }).click()
    const dialog = page.getByRole('dialog', { name: /^Move “Thank lantern sponsors”/ })
    await choose(dialog.getByLabel('Where to'), 'Bench List · Small repairs')
    await dialog.getByText('Everything it says has room there.').waitFor()
    await dialog.getByRole('button', { name: 'Move', exact: true }).click()
    await until('it is there', () => there.task('repairs', 'Thank lantern sponsors'))
    const message = page.getByRole('status').locator('.message', { hasText: 'on its way to Bench List' })
    await message.getByRole('button', { name: 'Undo' }).click()
    await said(/Thank lantern sponsors: taken back/)
    await until('it is where it was', () => there.task('festival', 'Thank lantern sponsors'))
    await until('and only there', async () => !(await there.task('repairs', 'Thank lantern sponsors')))
    expect((await there.task('festival', 'Thank lantern sponsors'))?.details).to.match(/^\*\*Six/)
  })

  it('colours by category, shows only one of them at one click, and calls it as the team does', async () => {
    const drawer = page.getByRole('complementary', { name: /^Details of Photograph loans/ })
    await item('Photograph loans').focus()
    await page.keyboard.press('o')
    await drawer.getByLabel('Categories').fill('Pictures, Loans')
    await page.keyboard.press('Tab')
    await until('its service has them', async () =>
      (await there.task('festival', 'Photograph loans'))?.marks.includes('Pictures'),
    )
    await drawer.getByRole('button', { name: 'Close' }).click()
    await page.getByRole('button', { name: 'What colours them' }).click()
    await page.getByRole('menuitemradio', { name: 'category' }).click()
    const legend = page.getByRole('group', { name: 'What the colours mean' })
    await legend.getByRole('button', { name: /^Pictures 1/ }).click()
    await page.getByText('1 task without a time').waitFor()
    await legend.getByRole('link', { name: 'Names and colours' }).click()
    await page.getByLabel('Name of Pictures').fill('Photographs')
    await page.keyboard.press('Enter')
    await said(/Pictures is called Photographs here now/)
    await page.goBack()
    // The filter goes on under the new name; the service is not told.
    await legend.getByRole('button', { name: /^Photographs 1/, pressed: true }).click()
    await item('Call seed partners').waitFor()
    expect((await there.task('festival', 'Photograph loans'))?.marks).to.deep.equal(['Pictures', 'Loans'])
    await page.keyboard.press('z')
    await legend.getByRole('button', { name: /^Pictures 1/ }).waitFor()
    await page.getByRole('button', { name: 'Reset' }).click()
  })
})
