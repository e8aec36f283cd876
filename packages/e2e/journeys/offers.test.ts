import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp, until } from '../support/app.ts'

/** Time for guests: drawn on the Cloth, booked by somebody without an account, moved and called off. */
describe('times for guests', function () {
  this.timeout(90_000)
  let app: App
  let page: Page
  let guest: Page
  const call = callFrom(() => page)
  const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')
  let link = ''
  before(async () => {
    app = await startApp()
    page = await app.newPage()
    await signIn(page)
    await page.getByRole('grid').waitFor()
    guest = await app.newPage({ width: 360, height: 780 })
  })
  after(() => app.close())

  const panel = () => page.getByRole('complementary', { name: 'Times for guests' })
  const newestLetter = async (subject: string): Promise<string> =>
    until(`a letter: ${subject}`, async () => {
      const { letters } = (await (await fetch(`${app.standins}/mailbox/messages`)).json()) as {
        letters: any[]
      }
      return letters.find(l => l.subject.startsWith(subject))?.text
    })
  /** On the free end of a row, minutes after midnight. */
  const draw = async (row: number, from: number, to: number): Promise<void> => {
    const track = page.locator('[data-drop="hour"]').nth(row)
    const box = await track.boundingBox()
    if (!box) throw new Error('there is no such row')
    await page.mouse.move(box.x + box.width * from, box.y + box.height - 3)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width * to, box.y + box.height - 3, { steps: 4 })
    await page.mouse.up()
  }
  const violations = async (of: Page): Promise<string[]> => {
    await of.evaluate(axe)
    const found: any = await of.evaluate('axe.run(document, { resultTypes: ["violations"] })')
    return found.violations.map(
      (v: any) => `${v.id}: ${v.nodes.map((n: any) => n.target.join(' ')).join(', ')}`,
    )
  }

  it('are drawn on the Cloth, seen there, and become an address to send', async () => {
    await page
      .getByRole('button', { name: 'After' })
      .or(page.getByRole('button', { name: 'Next week' }))
      .first()
      .click()
    await page.getByRole('button', { name: 'Offer', exact: true }).click()
    await panel().getByLabel('What it is about').fill('Zorblax lanterns')
    await draw(4, 0.55, 0.8)
    await panel().getByRole('listitem').first().waitFor()
    await panel().getByLabel('Place', { exact: true }).fill('Tarn Lane 4')
    await panel().getByLabel('Call link').fill('https://call.tarnlane.example/1')
    await panel()
      .getByText(/A guest can begin at \d+ times/)
      .waitFor()
    expect(await page.getByRole('img', { name: /^To be offered: Zorblax lanterns/ }).count()).to.equal(1)
    expect(await violations(page)).to.deep.equal([])
    await panel().getByRole('button', { name: 'Make the offer' }).click()
    const text = await panel().getByLabel('Text to send').inputValue()
    link = /\/times#\w+/.exec(text)?.[0] ?? ''
    expect(text).to.match(/Zorblax lanterns, 45 min/)
    await page.getByRole('img', { name: /^Offered to guests: Zorblax lanterns/ }).waitFor()
  })

  it('are booked on a telephone by keyboard, confirmed by mail, and on the Cloth', async () => {
    await guest.goto(link)
    await guest.getByRole('heading', { name: 'A time with Ines Varga' }).waitFor()
    expect(await violations(guest)).to.deep.equal([])
    const width = await guest.evaluate(() => document.documentElement.scrollWidth)
    expect(width, 'nothing is wider than the telephone').to.be.at.most(360)
    await guest.locator('button[aria-pressed]').first().focus()
    await guest.keyboard.press('Enter')
    await guest.getByLabel('Name').fill('Pia Rangan')
    await guest.getByLabel('Mail address').fill('pia@tarnlane.example')
    await guest.getByLabel('By a call').check()
    await guest.getByLabel('Mail address').press('Enter')
    await guest.getByText('Look into your mail').waitFor()
    const own = /\/booked#\w+/.exec(await newestLetter('Confirm'))?.[0] ?? ''
    await guest.goto(own)
    await guest.getByRole('button', { name: 'Confirm this time' }).click()
    await guest.getByText('https://call.tarnlane.example/1').waitFor()
    expect(await violations(guest)).to.deep.equal([])
    await until('it is on the Cloth', async () => {
      const { offers } = await call('GET', '/offers')
      return offers[0]?.bookings[0]?.state === 'booked'
    })
    await page.locator('[data-key]', { hasText: 'Zorblax' }).first().waitFor()
    await panel()
      .getByText(/, Pia Rangan$/)
      .waitFor()
  })

  it('are moved and called off by the guest', async () => {
    await guest.getByRole('button', { name: 'Move it' }).click()
    await guest.locator('button[aria-pressed="false"]').last().click()
    await guest.locator('.start').last().click()
    await guest.getByRole('button', { name: /^Move it to/ }).click()
    await guest.getByText('Moved. A new invitation is on its way').waitFor()
    await newestLetter('Moved')
    await guest.getByRole('button', { name: 'Call it off' }).click()
    await guest
      .getByRole('group', { name: 'Call it off?' })
      .getByRole('button', { name: 'Call it off' })
      .click()
    await guest.getByText('You have called it off.').waitFor()
    await until('it has gone from the Cloth', async () => {
      const { offers } = await call('GET', '/offers')
      return offers[0]?.bookings.length === 0
    })
    await page.locator('[data-key]', { hasText: 'Zorblax' }).first().waitFor({ state: 'detached' })
  })

  it('keep what a guest has typed when somebody else was faster, and say when they are withdrawn', async () => {
    const [one, other] = [await app.newPage(), await app.newPage()]
    for (const p of [one, other]) {
      await p.goto(link)
      await p.locator('button[aria-pressed]').first().focus()
      await p.keyboard.press('Enter')
      await p.getByLabel('Name').fill('Noor Tarn')
      await p.getByLabel('Mail address').fill('noor@tarnlane.example')
    }
    await one.getByRole('button', { name: 'Book', exact: true }).click()
    await one.getByText('Look into your mail').waitFor()
    await other.getByLabel('Mail address').fill('kofi@tarnlane.example')
    await other.getByRole('button', { name: 'Book', exact: true }).click()
    await other
      .getByText(/What you wrote is still here/)
      .first()
      .waitFor()
    expect(await other.getByLabel('Name').inputValue()).to.equal('Noor Tarn')
    await panel().getByRole('button', { name: 'Withdraw' }).click()
    await page.getByText('withdrawn. What is booked stands.').waitFor()
    await other.reload()
    await other.getByText(/This offer has ended/).waitFor()
  })
})
