import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, signIn, startApp, until, weekDay } from '../support/app.ts'

/** A day and a row are sent to a chat as they were shown before, and focus is told there while it lasts. */
describe('a chat beside the day', function () {
  this.timeout(90_000)
  let app: App
  let page: Page

  before(async () => {
    app = await startApp({ clock: `${weekDay(1)}T11:35:00Z`, size: 'whole' })
    page = await app.newPage()
    await signIn(page)
    await page.goto('/day')
    await page.getByRole('button', { name: 'Send to a chat' }).waitFor()
  })
  after(() => app.close())

  const there = async (path: string): Promise<any> =>
    (
      await fetch(`${app.standins}/chat/api${path}`, { headers: { Authorization: 'Bearer chat-key-ines' } })
    ).json()
  const lastOf = async (channel: string): Promise<string> =>
    (await there(`/channels/${channel}/messages`)).messages.at(-1).text
  const dialog = () => page.getByRole('dialog', { name: /^Send / })
  const shown = () => dialog().getByRole('textbox')
  const pick = async (choice: string, option: string): Promise<void> => {
    await dialog().getByRole('button', { name: choice }).click()
    await page.getByRole('menuitemradio', { name: option }).click()
  }

  it('is sent what was shown, at the level that was chosen, by keyboard', async () => {
    await page.getByRole('button', { name: 'Send to a chat' }).focus()
    await page.keyboard.press('Enter')
    await until('its titles', async () => /Volunteer induction/.test(await shown().inputValue()))
    await pick('How much is shown', 'only busy')
    await until('times alone', async () => {
      const text = await shown().inputValue()
      return /taken/.test(text) && !/Volunteer/.test(text)
    })
    await shown().press('Control+End')
    await page.keyboard.type('\nBack at four.')
    const text = await shown().inputValue()
    await dialog().getByRole('button', { name: 'Send' }).focus()
    await page.keyboard.press('Enter')
    await page.getByText(/this day: written to Gate house/).waitFor()
    expect(await lastOf('gate-house')).to.equal(text)
  })

  it('is told of focus until it ends, which every screen shows', async () => {
    await page.getByRole('button', { name: 'What the chat says of me' }).click()
    await page.getByRole('menuitemradio', { name: /a meeting, a break or focus/ }).click()
    await page.getByRole('button', { name: 'Focus for 50 min' }).click()
    await page.getByText(/In focus until 12:25/).waitFor()
    await until(
      'it is told',
      async () => /In focus/.test((await there('/status')).status?.text ?? ''),
      30_000,
    )
    await page.goto('/journal')
    await page.getByText(/In focus until/).waitFor()
    await page.getByRole('button', { name: 'End focus' }).click()
    await until('it is taken back', async () => (await there('/status')).status === null, 30_000)
  })

  it('is sent a row of the Cloth as well', async () => {
    await page.goto('/cloth')
    await page
      .getByRole('button', { name: /of 6 h 30/ })
      .first()
      .click()
    await page.getByRole('dialog', { name: 'Load' }).getByRole('button', { name: 'Send to a chat' }).click()
    await until('what is there', async () => /Trustees/.test(await shown().inputValue()))
    await pick('Channel', 'Night crew')
    await dialog().getByRole('button', { name: 'Send' }).click()
    await page.getByText(/written to Night crew/).waitFor()
    expect(await lastOf('night-crew')).to.match(/^Monday .*Trustees/s)
  })
})
