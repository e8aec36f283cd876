import { expect } from 'chai'
import type { Locator, Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** A day as its coordinator begins and ends it: decided by keys, made to fit, looked back upon. */
describe('the page of a day', function () {
  this.timeout(90_000)
  let app: App
  let page: Page

  before(async () => {
    app = await startApp({ clock: `${weekDay(1)}T07:30:00Z` })
    const there = otherSide(app)
    page = await app.newPage({ height: 1000 })
    await signIn(page)
    await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
    const day = (n: number) => ({ kind: 'date', date: weekDay(n) })
    for (const [title, start, estimate, due] of [
      ['Zorblax lamps', day(0), 30, null],
      ['Quennip banners', day(0), 30, day(1)],
      ['Vexil ropes', day(1), 240, null],
      ['Plimber the hedge', day(1), 30, null],
    ] as const)
      await call('POST', '/cloth/make', {
        what: 'task',
        title,
        start,
        estimate,
        into: null,
        said: due ? { due } : {},
      })
    await page.goto('/day')
    await row('Zorblax lamps').waitFor()
  })
  after(() => app.close())

  const call = callFrom(() => page)
  const part = (name: string): Locator => page.getByRole('region', { name })
  const row = (title: string): Locator =>
    part('Unfinished').getByRole('group', { name: new RegExp(`^${title}`) })
  const item = async (title: string): Promise<any> =>
    (await call('GET', `/cloth?from=${weekDay(0)}&days=14`)).items.find((i: any) => i.title === title)

  it('decides what is left over by a digit, and the rest as proposed by one key', async () => {
    await row('Zorblax lamps').focus()
    await page.keyboard.press('3')
    await until('it is for next week', async () => (await item('Zorblax lamps')).week === weekDay(7))
    await part('Unfinished')
      .getByText(/1 of \d+ decided/)
      .waitFor()
    // What was decided can be decided otherwise; and undone like anything else.
    await row('Zorblax lamps').getByRole('button', { name: 'no date' }).click()
    await until('it has no date', async () => (await item('Zorblax lamps')).week === undefined)
    await page.getByRole('heading', { name: /^Unfinished/ }).click()
    await page.keyboard.press('a')
    await page.getByText(/decided as proposed|: decided\./).waitFor()
    await until('nothing is left over', async () => {
      const { place, week } = await item('Quennip banners')
      return week === weekDay(0) || (place.kind === 'day' && place.date === weekDay(1))
    })
    await page.getByRole('button', { name: 'Undo' }).first().click()
    await until('it is where it was', async () => (await item('Quennip banners')).place.date === weekDay(0))
  })

  it('says by how much the day is too full, and makes it fit', async () => {
    const planned = part('Planned')
    await planned.getByText(/Too much by/).waitFor()
    await planned.getByRole('button', { name: /Plimber the hedge to|Vexil ropes to/ }).click()
    await page.getByText(/moved/).first().waitFor()
    await until('it is on another day', async () => {
      const { place } = await item('Plimber the hedge')
      return place.kind === 'timed'
    })
  })

  it('marks up to three that matter, which stand first and are marked after a reload', async () => {
    const rows = part('Planned').getByRole('group')
    const last = ((await rows.last().getAttribute('aria-label')) ?? '').split(',')[0] ?? ''
    const mark = (): Locator => part('Planned').getByRole('button', { name: `${last} matters most today` })
    await mark().click()
    await until('it is kept', async () => (await call('GET', '/planning')).planning.matters.keys.length === 1)
    await page.reload()
    await until('it stands first, and says so', async () => {
      const label = (await rows.first().getAttribute('aria-label')) ?? ''
      return label.startsWith(last) && label.endsWith('matters most')
    })
    expect(await mark().getAttribute('aria-pressed')).to.equal('true')
  })

  it('tells what came since it was looked at, until that is seen', async () => {
    const other = await app.newPage()
    await signIn(other, 'tobias@quillmere.example')
    const { me } = await call('GET', '/team')
    const task = { what: 'task', title: 'Grumbold keys', start: null, estimate: 30, into: null, for: me }
    await callFrom(() => other)('POST', '/cloth/make', task)
    await other.close()
    const card = part('New since you last looked')
    await card.getByText(/^task · no date · came /).waitFor()
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/day-new.png` })
    await card.getByRole('button', { name: 'Grumbold keys' }).click()
    await page.getByRole('complementary', { name: 'Grumbold keys' }).waitFor()
    await page.keyboard.press('Escape')
    await card.getByRole('button', { name: 'Seen' }).focus()
    await page.keyboard.press('Enter')
    await card.waitFor({ state: 'detached' })
    await page.reload()
    await part('Planned').waitFor()
    await until('nothing is new', async () => (await call('GET', '/planning/new')).items.length === 0)
  })

  it('is one sheet of paper, and so is the week', async () => {
    for (const path of ['/day', '/cloth']) {
      await page.goto(path)
      await page.locator('main [data-key]').first().waitFor()
      const paper = await page.pdf({ preferCSSPageSize: true, printBackground: true })
      expect(paper.toString('latin1').match(/\/Type\s*\/Page\b(?!s)/g), path).to.have.length(1)
      await page.emulateMedia({ media: 'print' })
      expect(
        await page
          .getByText(/Focus for|Draft free time/)
          .first()
          .isVisible(),
        path,
      ).to.equal(false)
      expect(await page.locator('.axis, [data-area] [data-drag]').first().isVisible(), path).to.equal(true)
      await page.emulateMedia({ media: null })
    }
    await page.goto('/day')
  })

  it('leads to a draft of today alone', async () => {
    await page.getByRole('link', { name: 'Draft free time' }).click()
    await page.getByRole('button', { name: 'Which days: today' }).waitFor()
    expect((await call('GET', '/planning')).planning.sentence.span, 'this once').to.equal('week')
  })
})
