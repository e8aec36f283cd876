import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, signIn, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** Colleagues are chosen, their best times are told and shown side by side, and one is written and taken back. */
describe('a time among colleagues', function () {
  this.timeout(90_000)
  let app: App
  let page: Page
  let there: ReturnType<typeof otherSide>

  before(async () => {
    app = await startApp({ clock: `${weekDay(0)}T07:30:00Z` })
    there = otherSide(app)
    page = await app.newPage()
    await signIn(page)
    await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
  })
  after(() => app.close())

  const panel = () => page.getByRole('complementary', { name: 'A time among us' })
  const times = () => panel().getByRole('list', { name: 'The best times' }).getByRole('button')
  const titles = async (): Promise<string[]> =>
    (await there.events('garden-team')).map(e => /^SUMMARY:(.*)$/m.exec(e.text)?.[1]?.trim() ?? '')

  it('is found, shown beside one another, and told in the zone of each', async () => {
    await page.getByRole('button', { name: 'Offer', exact: true }).click()
    await page.getByRole('button', { name: 'among us' }).click()
    await panel().getByRole('button', { name: 'With which colleagues' }).click()
    for (const name of ['Tobias Lund', 'Anouk Thapa'])
      await page
        .getByRole('checkbox', { name })
        .or(page.getByRole('menuitemcheckbox', { name }))
        .first()
        .click()
    await page.keyboard.press('Escape')
    await times().nth(2).waitFor()
    expect(await times().first().textContent()).to.match(/\d\d:\d\d for Anouk Thapa/)
    await times().nth(1).focus()
    await page.keyboard.press('Enter')
    expect(await times().nth(1).getAttribute('aria-pressed')).to.equal('true')
    await panel().getByRole('button', { name: 'Show us side by side' }).click()
    // In the rows of all three, and of nobody else.
    const marks = page.getByRole('img', { name: /^A common time/ })
    await until('it is drawn in three rows', async () => (await marks.count()) === 3)
  })

  it('is written in one step, with the others as guests, and taken back', async () => {
    await panel().getByRole('textbox', { name: 'What we meet about' }).fill('Zorblax festival talk')
    await panel().getByRole('button', { name: 'Into which calendar' }).click()
    await page.getByRole('menuitemradio', { name: /^Garden team/ }).click()
    await panel()
      .getByRole('button', { name: /^Write it/ })
      .click()
    await until('it is in the calendar', async () => (await titles()).includes('Zorblax festival talk'))
    const event = (await there.events('garden-team')).find(e => e.text.includes('Zorblax festival talk'))
    expect(event?.text.replace(/\r\n[ \t]/g, '')).to.match(/ATTENDEE[^\r\n]*anouk@quillmere\.example/i)
    await page.getByRole('button', { name: 'Undo' }).click()
    await until('it is gone again', async () => !(await titles()).includes('Zorblax festival talk'))
  })
})
