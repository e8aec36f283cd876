import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { choose, type App, signIn, typeDay, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** Connecting a service, making a rule from its preview, reading the journal, and staying signed in. */
describe('setting up', function () {
  this.timeout(60_000)
  let app: App
  let page: Page
  let there: ReturnType<typeof otherSide>

  before(async () => {
    app = await startApp()
    there = otherSide(app)
    page = await app.newPage()
  })
  after(() => app.close())

  it('refuses a wrong password in a sentence and keeps what was typed', async () => {
    await page.goto('/journal')
    await page.getByLabel('Mail address').fill('ines@quillmere.example')
    await page.getByLabel('Password', { exact: true }).fill('wrong')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.getByText('Wrong mail address or password.').waitFor()
    expect(await page.getByLabel('Mail address').inputValue()).to.equal('ines@quillmere.example')
    await page.getByLabel('Password', { exact: true }).fill('night-flowering')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.getByRole('heading', { name: 'Journal' }).waitFor()
    // Whoever is still known is not asked again at the door.
    await page.goto('/sign-in')
    await page.waitForURL('**/cloth')
  })

  it('connects a second account, after saying what was wrong with the first try', async () => {
    await page.getByRole('link', { name: 'Connections' }).click()
    await page.getByRole('button', { name: 'Connect a service' }).click()
    await page.getByRole('button', { name: /^Calendars and tasks/ }).click()
    await page.getByLabel('Address').fill(app.standins)
    await page.getByLabel('User name').fill('tobias')
    await page.getByLabel('Password', { exact: true }).fill('wrong')
    await page.getByRole('button', { name: 'Sign in and look what is there' }).click()
    await page.getByText(/did not accept these credentials\. Nothing was kept\./).waitFor()
    expect(await page.getByLabel('User name').inputValue()).to.equal('tobias')
    await page.getByLabel('Password', { exact: true }).fill('glasshouse')
    await page.getByRole('button', { name: 'Sign in and look what is there' }).click()
    await page.getByText(/^\d+ of \d+ items match\.$/).waitFor()
    while (await page.getByRole('button', { name: 'Continue' }).isVisible())
      await page.getByRole('button', { name: 'Continue' }).click()
    await page.getByLabel('Call it').fill('Tobias’ calendars')
    await page.getByRole('button', { name: 'Connect and bring it in' }).click()
    const section = page.getByRole('region', { name: 'Tobias’ calendars' })
    await section.getByText('In step').waitFor()
    await section.getByRole('switch', { name: 'Glasshouses takes part' }).first().click()
    await section.getByRole('button', { name: /^Show 1 that/ }).click()
    await section.getByText('not synced', { exact: true }).waitFor()
  })

  it('tells the truth about a service that fails, and when it is well again', async () => {
    await there.fault('bench', { status: 500 })
    const section = page.getByRole('region', { name: 'Bench List' })
    await section.getByText('Failing').waitFor()
    await page.getByRole('link', { name: 'Bench List has trouble' }).waitFor()
    await there.fault('bench', {})
    await section.getByText('In step').waitFor({ timeout: 30_000 })
    await page.getByRole('link', { name: 'All in step' }).waitFor()
  })

  it('makes a rule from what its preview says, and the preview is what happens', async () => {
    await page.getByRole('link', { name: 'Rules' }).click()
    await page.getByRole('button', { name: 'New rule' }).click()
    await page.getByRole('button', { name: /^Time for tasks/ }).click()
    const choose = async (side: string, name: string): Promise<void> => {
      await page.getByRole('button', { name: side }).click()
      await page.getByRole('menuitem', { name }).click()
    }
    await choose('Task list', 'Bench List · Small repairs')
    await choose('Calendar', 'Garden Calendars · House repairs')
    const preview = page.getByRole('region', { name: 'What this will do now' })
    await preview.getByText('1 matched').waitFor()
    await page.getByRole('button', { name: 'Turn on: tie 1' }).waitFor()
    await preview.getByRole('button', { name: 'These are not the same' }).click()
    await page.getByRole('button', { name: 'Turn on: make 1' }).waitFor()
    await page.getByRole('button', { name: 'propose them again' }).click()
    await page.getByRole('button', { name: /^Length without an estimate/ }).click()
    await page.getByRole('menuitemradio', { name: '45 min' }).click()

    await page.getByRole('link', { name: 'Journal' }).click()
    await page.getByText('Leave without saving?').waitFor()
    await page.getByRole('button', { name: 'Stay here' }).click()
    await page.getByRole('button', { name: 'Turn on: tie 1' }).click()
    await page.getByText('The rule is on.').waitFor()
    await page.getByRole('heading', { name: 'Small repairs ⇄ House repairs' }).waitFor()
    expect((await there.events('house-repairs')).map(e => e.summary).sort()).to.deep.equal([
      'Boiler service\\, House 1',
      'Repair vent motor\\, House 3',
    ])
    const task = await there.task('repairs', 'Boiler valve quote')
    await there.editTask(task?.id ?? '', { hour: '16:00' })
    const event = await until('the rule makes its event', () =>
      there.event('house-repairs', 'Boiler valve quote'),
    )
    expect(event.end).to.match(/T164500$/)
  })

  it('offers further lists and a new calendar where the rule is made', async () => {
    await page.goto('/rules/new')
    await page.getByRole('button', { name: /^Time for tasks/ }).click()
    await page.getByRole('button', { name: /^Task list/ }).click()
    await page.getByRole('menuitem', { name: 'Bench List · Ideas' }).click()
    await page.getByRole('button', { name: 'Which take part, first side: of this one only' }).click()
    await page.getByRole('checkbox', { name: 'Bench List · Festival', exact: true }).check()
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Which take part, first side: of this and 1 more' }).waitFor()
    await page.getByRole('button', { name: /^Calendar/ }).click()
    await page.getByRole('menuitem', { name: 'New calendar at Garden Calendars…' }).click()
    const dialog = page.getByRole('dialog', { name: 'Make a calendar at Garden Calendars' })
    await dialog.getByLabel('Its name').fill('Workbench')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'Calendar: Garden Calendars · Workbench' }).waitFor()
    // It is read at once, and the preview with it.
    await page.getByRole('button', { name: /^Turn on: make \d+/ }).waitFor()
    await page.getByRole('link', { name: 'Journal' }).click()
    await page.getByRole('button', { name: 'Leave' }).click()
    await page.getByRole('heading', { name: 'Journal' }).waitFor()
  })

  it('writes down every change with what stood there before', async () => {
    const event = await until('the event', () => there.event('house-repairs', 'Boiler valve quote'))
    await there.put(
      event.url,
      event.text.replace('SUMMARY:Boiler valve quote', 'SUMMARY:Quote for boiler valve'),
    )
    await until('the task is renamed', () => there.task('repairs', 'Quote for boiler valve'))
    await page.getByRole('link', { name: 'Journal' }).click()
    const line = page.getByRole('listitem').filter({ hasText: 'the event was changed' }).first()
    await line.waitFor()
    const text = (await line.innerText()).replace(/\s+/g, ' ')
    expect(text).to.contain('changed in Bench List · Small repairs')
    expect(text).to.match(/title ?Boiler valve quote ?Quote for boiler valve/)
    expect(text).to.contain('Rule Small repairs ⇄ House repairs')
  })

  it('looks through the journal, follows one item, and keeps what is looked for in the address', async () => {
    await page.goto('/journal')
    await page.getByLabel('Search in titles').fill('quote')
    await page.waitForURL('**/journal?words=quote')
    await choose(page.getByLabel('Service'), 'Bench List')
    await page.waitForURL('**service=*')
    const lines = page.getByRole('listitem')
    await until('only what fits is shown', async () => {
      const texts = await lines.allInnerTexts()
      return texts.length > 0 && texts.every(t => /quote/i.test(t) && t.includes('Bench List'))
    })
    await page.reload()
    await until('the address says it, too', async () => (await lines.count()) > 0)
    await page
      .getByRole('link', { name: /^History/ })
      .first()
      .click()
    await page.getByText('the history of one item, on both sides').waitFor()
    await lines.filter({ hasText: 'in Garden Calendars' }).first().waitFor()
    await page.getByRole('button', { name: 'All entries' }).click()
    await page.waitForURL('**/journal')
    await choose(page.getByLabel('Outcome'), 'overridden')
    await page.getByLabel('Search in titles').fill('nothing like it')
    await page.getByText('Nothing was written that fits this').waitFor()
    await page.getByRole('button', { name: 'Show all entries' }).click()
    await lines.first().waitFor()
  })

  it('keeps what is being typed when the session ends, and goes on after signing in again', async () => {
    await page.goto('/cloth')
    await page.getByRole('group', { name: /^Repaint sign/ }).focus()
    await page.keyboard.press('p')
    const dialog = page.getByRole('dialog', { name: /Repaint sign/ })
    await typeDay(dialog.getByLabel('Day', { exact: true }), weekDay(5))
    await app.sql('DELETE FROM sessions')
    // By key: if the page asks for something by itself first, the door stands over the button already.
    await dialog.getByLabel('Starts').press('Enter')
    const door = page.getByRole('dialog', { name: 'Sign in again' })
    await door.getByLabel('Password', { exact: true }).fill('night-flowering')
    await door.getByRole('button', { name: 'Sign in' }).click()
    await door.waitFor({ state: 'hidden' })
    await until(
      'what was asked for before is done',
      async () => (await there.task('repairs', 'Repaint sign'))?.day === weekDay(5),
    )
  })

  it('shows each person their own time zone', async () => {
    const other = await app.newPage()
    await signIn(other, 'anouk@quillmere.example')
    // In hers it may be next week already.
    await other.goto(`/cloth?at=${weekDay(2)}`)
    await other.getByRole('group', { name: /^Herbarium call.*18:45–19:45/ }).waitFor()
  })
})
