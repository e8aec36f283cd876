import { readFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import type { Locator, Page } from 'playwright-core'
import { choose, chosen, type App, signIn, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** Connecting what a team uses, by hand: each stand-in as a new user would, files, doors, and health. */
describe('connections', function () {
  this.timeout(60_000)
  let app: App
  let page: Page
  let there: ReturnType<typeof otherSide>
  const EXAMPLE = join(
    resolve(fileURLToPath(import.meta.url), '../../../..'),
    'docs/examples/seed-slips.json',
  )

  before(async () => {
    app = await startApp()
    there = otherSide(app)
    page = await app.newPage()
    await signIn(page)
  })
  afterEach(async function () {
    if (this.currentTest?.state === 'failed' && process.env.SHOTS)
      await page.screenshot({
        path: `${process.env.SHOTS}/${this.currentTest.title.slice(0, 30).replace(/\W/g, '-')}.png`,
      })
  })
  after(() => app.close())

  const button = (name: string | RegExp): Locator => page.getByRole('button', { name })
  const station = (name: string): Locator => page.getByRole('region', { name, exact: true })
  const section = (name: string): Locator => page.getByRole('region', { name, exact: true })
  const counted = (): Locator => page.getByText(/^\d+ of \d+ items match\.$/)

  async function begin(service: RegExp): Promise<void> {
    await page.goto('/connections/new')
    await button(service).click()
  }
  async function goOn(): Promise<void> {
    while (await button('Continue').isVisible()) await button('Continue').click()
  }
  async function keep(name: string, say = 'Connect and bring it in'): Promise<Locator> {
    await goOn()
    await page.getByLabel('Call it').fill(name)
    await button(say).click()
    await page.waitForURL('**/connections')
    const kept = section(name)
    await kept.getByText('In step').waitFor()
    return kept
  }

  it('reads a feed and says that it can only be read', async () => {
    await begin(/^Calendar feed/)
    await page.getByLabel('Address').fill(`${app.standins.replace('http', 'webcal')}/visits/spring-term.ics`)
    await button('Look what is there').click()
    await counted().waitFor()
    const kept = await keep('School visits')
    await kept.getByText(/5 events, read only/).waitFor()
  })

  it('goes to the consent page and comes back to one sentence that says what comes in', async () => {
    await begin(/^Repairs Board/)
    await page.getByLabel('Address').fill(`${app.standins}/board`)
    await button('Go to Repairs Board and allow it').click()
    await page.getByRole('heading', { name: 'Repairs Board' }).waitFor()
    await page.getByLabel('You are').selectOption('1007')
    await page.getByRole('button', { name: 'Allow', exact: true }).click()
    await page.waitForURL('**/connections/new?draft=*')
    await page.getByText('11 of 11 items match.').waitFor()
    await page.getByText('Not offered: 1').waitFor()

    await button(/^Status/).click()
    await page.getByRole('checkbox', { name: 'to do' }).check()
    await page.getByRole('checkbox', { name: 'in progress' }).check()
    await page.keyboard.press('Escape')
    await page.getByText('8 of 11 items match.').waitFor()
    await button('Continue').click()

    const who = station('Who is who')
    await who.getByText('2 of 4 are members here; 2 are not').waitFor()
    await who.getByText('you, says the service').waitFor()
    await choose(who.getByLabel('Who is Bram Castelijn'), 'Anouk Thapa')
    await who.getByText('3 of 4 are members here; 1 is not').waitFor()
    await button('Continue').click()

    const means = station('Statuses and priorities')
    const glass = means.getByRole('region', { name: 'Glasshouse crew' })
    expect(await chosen(glass.getByLabel('Parts ordered means'))).to.equal('in progress')
    await choose(glass.getByLabel('Noted means'), 'in progress')
    await glass.getByText(/When it is reopened here: none of its words means that/).waitFor()
    await choose(glass.getByLabel('Noted means'), 'to do')
    const kept = await keep('Repairs Board')
    await kept.getByText(/comes in: what is to do or in progress/i).waitFor()
    await kept.getByText('Of its 4 people, 1 is no member here.').waitFor()
    await page.goto('/cloth')
    await page.getByRole('group', { name: /^Cracked pane above the cacti/ }).waitFor()
  })

  it('says so when consent was refused, and lets one try again', async () => {
    await begin(/^Repairs Board/)
    await page.getByLabel('Address').fill(`${app.standins}/board`)
    await button('Go to Repairs Board and allow it').click()
    await page.getByRole('button', { name: 'Do not allow' }).click()
    await page.waitForURL('**/connections/new?*')
    await page.getByRole('alert').first().waitFor()
    expect(await page.getByRole('alert').first().innerText()).to.match(/was not given|not allow/i)
    await button('Cancel').click()
    await page.waitForURL('**/connections')
  })

  it('takes single lists of a register, and calls an account that is connected already by its name', async () => {
    await begin(/^Plant Register/)
    await page.getByLabel('Address').fill(`${app.standins}/register`)
    await page.getByLabel('Register key').or(page.getByLabel(/key/i)).first().fill('register-key-anouk')
    await button('Sign in and look what is there').click()
    await counted().waitFor()
    await button(/^Which lists and calendars/).click()
    await page.getByRole('checkbox', { name: 'Plant work', exact: true }).uncheck()
    await page.getByRole('checkbox', { name: 'Plant work: Check' }).check()
    await page.keyboard.press('Escape')
    await page.getByText('3 of 3 items match.').waitFor()
    await keep('Plant checks')

    await begin(/^Calendars and tasks/)
    await page.getByLabel('Address').fill(app.standins)
    await page.getByLabel('User name').fill('ines')
    await page.getByLabel('Password', { exact: true }).fill('moonflower')
    await button('Sign in and look what is there').click()
    await page.getByText(/This account is connected already, as Garden Calendars/).waitFor()
  })

  it('brings in nothing by itself, only what was searched and picked', async () => {
    await begin(/^Gatehouse Mail/)
    await page.getByLabel('Address').fill(`${app.standins}/mail`)
    await page.getByLabel('User name').fill('gatehouse')
    await page.getByLabel('Password', { exact: true }).fill('lower-gate')
    await button('Sign in and look what is there').click()
    await page.getByRole('radio', { name: /Nothing by itself/ }).check()
    await page.getByLabel('Search at the service').fill('gate lower')
    await page.getByText('1 found; 0 picked.').waitFor()
    await button('Take Stop at the lower gate').click()
    await page.getByText('1 found; 1 picked.').waitFor()
    // Coming back to a draft finds it as it was.
    await page.reload()
    await page.getByText('1 picked.', { exact: false }).first().waitFor()
    const kept = await keep('Gate mail', 'Connect with 1 picked')
    await kept.getByText('Comes in: only items picked one by one').waitFor()
  })

  it('connects a service by a description that was brought, after saying what is wrong in it', async () => {
    await page.goto('/connections/new')
    await button('Import a description of it').click()
    const text = readFileSync(EXAMPLE, 'utf8')
    await page.getByLabel('The description').fill(text.replace('"as": "priority"', '"as": "pryority"'))
    await button('Save description').click()
    await page.getByText('/fields/priority').first().waitFor()
    await page.getByLabel('or from a file').setInputFiles(EXAMPLE)
    await page.getByText('Try it against its service first').click()
    await page.getByLabel('Address', { exact: true }).fill(`${app.standins}/slips`)
    await page.getByLabel('Access key').fill('seed-slips-pass')
    await page.getByLabel('A list to try writing in').fill('spring')
    await button('Try it').click()
    const checks = page.getByRole('list', { name: 'What works' })
    await checks.getByText('works').first().waitFor()
    expect(await checks.getByText('fails', { exact: true }).count()).to.equal(0)
    await button('Save description').click()
    // The form for signing in, and not the one for trying, which has an address too.
    await page.getByLabel('Pass').fill('seed-slips-pass')
    await page.getByLabel('Address').fill(`${app.standins}/slips`)
    await button('Sign in and look what is there').click()
    await page.getByText('13 of 13 items match.').waitFor()
    await keep('Seed Slips')
  })

  it('changes later what comes in, after saying what that brings in and takes out', async () => {
    await page.goto('/connections')
    await button('More for Repairs Board').click()
    await page.getByRole('link', { name: 'What comes in and what it means' }).click()
    await page.getByText('8 of 11 items match.').waitFor()
    await button(/^Which lists and calendars/).click()
    await page.getByRole('checkbox', { name: 'Glasshouse crew' }).uncheck()
    await page.keyboard.press('Escape')
    await page.getByText(/5 of 8 items here will no longer be shown/).waitFor()
    await page.getByText('Nothing is deleted at the service.').waitFor()
    // Leaving asks first.
    await page.getByRole('link', { name: 'Journal' }).click()
    await button('Stay here').click()
    await button('Save: take out 5').click()
    await page.waitForURL('**/connections')
    await section('Repairs Board').getByText('3 tasks').waitFor()

    await button('More for Repairs Board').click()
    await page.getByRole('menuitem', { name: 'Where is it?' }).click()
    const where = page.getByRole('dialog', { name: /Where is what came from Repairs Board/ })
    await where
      .getByText(/in lists that are not synced|left out by what this connection brings in/)
      .first()
      .waitFor()
    await where
      .getByRole('link', { name: /Change what/ })
      .first()
      .click()
    await page.waitForURL('**/settings')
    await button(/^Which lists and calendars/).click()
    await page.getByRole('checkbox', { name: 'Glasshouse crew' }).check()
    await page.keyboard.press('Escape')
    await button('Save: bring in 5').click()
    await section('Repairs Board').getByText('5 tasks').waitFor()
  })

  it('tells of every trouble within seconds, and what to do about it', async () => {
    await page.goto('/connections')
    const board = section('Repairs Board')
    await there.fault('board', { status: 429, retryAfter: 2 })
    await board.getByText('Slowed by the service').waitFor()
    await there.fault('board', {})
    await board.getByText('In step').waitFor()

    await there.fault('mail', { expired: true })
    const mail = section('Gate mail')
    await mail.getByText('Signed out').waitFor()
    await there.fault('mail', {})
    await mail.getByRole('button', { name: 'Sign in again' }).click()
    const dialog = page.getByRole('dialog', { name: 'Sign in again to Gate mail' })
    await dialog.getByLabel('User name').fill('gatehouse')
    await dialog.getByLabel('Password', { exact: true }).fill('wrong')
    await dialog.getByRole('button', { name: 'Sign in', exact: true }).click()
    await dialog.getByText(/What was known before is kept\./).waitFor()
    await dialog.getByLabel('Password', { exact: true }).fill('lower-gate')
    await dialog.getByRole('button', { name: 'Sign in', exact: true }).click()
    await mail.getByText('In step').waitFor()

    await button('More for Gate mail').click()
    await page.getByRole('menuitem', { name: 'Pause' }).click()
    await mail.getByText('Paused').waitFor()
    await mail.getByRole('button', { name: 'Resume' }).click()
    await mail.getByText('In step').waitFor()
    await mail.getByRole('button', { name: 'Last 24 hours' }).click()
    await mail.getByText(/^In the last 24 hours: \d+ passes, /).waitFor()
  })

  it('looks into a file before anything comes in, chosen or dropped, and takes one out', async () => {
    await page.goto('/connections')
    const day = weekDay(2).replace(/-/g, '')
    const ics = [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//other//EN',
      'BEGIN:VEVENT',
      'UID:walk@elsewhere',
      'DTSTAMP:20260101T000000Z',
      `DTSTART:${day}T190000Z`,
      `DTEND:${day}T200000Z`,
      'SUMMARY:Lantern walk',
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n')
    const data = await page.evaluateHandle(text => {
      const transfer = new DataTransfer()
      transfer.items.add(new File([text], 'walk.ics', { type: 'text/calendar' }))
      return transfer
    }, ics)
    await page.dispatchEvent('main', 'drop', { dataTransfer: data })
    const dialog = page.getByRole('dialog', { name: 'Import walk.ics' })
    await dialog.getByText('1 new').waitFor()
    await dialog.getByRole('button', { name: 'Import 1' }).click()
    await page.getByText(/walk\.ics: 1 on their way in/).waitFor()

    await button('Import a file').click()
    const csv = 'Title;Until\r\nOil the hinges;3.12.2026\r\nOil the hinges twice;\r\n'
    await page
      .getByRole('dialog')
      .locator('input[type=file]')
      .setInputFiles({ name: 'jobs.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) })
    const table = page.getByRole('dialog', { name: 'Import jobs.csv' })
    await table.getByText('2 new').waitFor()
    await table.getByRole('checkbox', { name: 'Oil the hinges twice' }).uncheck()
    await table.getByRole('button', { name: 'Import 1' }).click()
    await page.goto('/cloth')
    await page.getByRole('group', { name: /^Lantern walk/ }).waitFor()
    await page.getByRole('group', { name: /^Oil the hinges/ }).waitFor()
    expect(await page.getByRole('group', { name: /^Oil the hinges twice/ }).count()).to.equal(0)

    await page.goto('/connections')
    await button('Export a file').click()
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page
        .getByRole('dialog')
        .getByRole('link', { name: 'Export' })
        .or(page.getByRole('dialog').getByRole('button', { name: 'Export' }))
        .click(),
    ])
    expect(file.suggestedFilename()).to.match(/^amber-loom-\d{4}-\d\d-\d\d\.ics$/)
    expect(readFileSync(await file.path(), 'utf8')).to.contain('SUMMARY:Lantern walk')
  })

  it('opens a way into the intake from outside, and shuts it again', async () => {
    await page.goto('/connections')
    const doors = section('Into your intake from outside')
    await doors.getByRole('button', { name: 'Create' }).last().click()
    const address = await doors.locator('code').last().innerText()
    const answer = await fetch(address, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ title: 'Seen from the chat' }),
    })
    expect(answer.status).to.equal(201)
    await until('it is told', async () => /Used 1 time/.test(await doors.innerText()), 20_000)
    await doors.getByRole('button', { name: 'Disable' }).click()
    await until('it leads nowhere', async () => {
      const late = await fetch(address, { method: 'POST', body: '{"title":"late"}' })
      return late.status !== 201
    })
    await page.goto('/cloth')
    await page.getByRole('group', { name: /^Seen from the chat/ }).waitFor()
  })

  it('says in counts what a disconnection takes with it, and takes only that', async () => {
    await page.goto('/connections')
    await button('More for Seed Slips').click()
    await page.getByRole('menuitem', { name: 'Disconnect' }).click()
    const dialog = page.getByRole('dialog', { name: 'Disconnect Seed Slips?' })
    await dialog.getByText('13 items of it on the Cloth').waitFor()
    await dialog.getByText('everything at Seed Slips itself').waitFor()
    await dialog.getByRole('button', { name: 'Disconnect', exact: true }).click()
    await section('Seed Slips').waitFor({ state: 'detached' })
  })

  it('is used by keyboard alone, from the service to its first items', async () => {
    await page.goto('/connections')
    await button('Connect a service').focus()
    await page.keyboard.press('Enter')
    await button(/^Calendar feed/).focus()
    await page.keyboard.press('Enter')
    await page.getByLabel('Address').focus()
    await page.keyboard.type(`${app.standins}/visits/spring-term.ics`)
    await page.keyboard.press('Enter')
    await counted().waitFor()
    // The heading of the station that opened has the focus: one goes on from there.
    expect(await page.evaluate(() => document.activeElement?.textContent)).to.equal('What comes in')
    await button(/^From when/).focus()
    await page.keyboard.press('Enter')
    await page.getByLabel('Days back').waitFor()
    await page.keyboard.press('Escape')
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label') ?? '')).to.match(
      /^From when/,
    )
    await button('Continue').focus()
    await page.keyboard.press('Enter')
    await page.getByLabel('Call it').waitFor()
  })
})
