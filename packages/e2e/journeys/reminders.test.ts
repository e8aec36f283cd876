import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp, until } from '../support/app.ts'

/** Reminders are set, come in the page and to a device while no page is open, are put off, and lead to what they are of. */
describe('reminders', function () {
  this.timeout(90_000)
  let app: App
  let page: Page
  const call = callFrom(() => page)

  before(async () => {
    app = await startApp()
    page = await app.newPage()
    await signIn(page)
  })
  after(() => app.close())

  const MINUTE = 60_000
  const cards = () => page.getByRole('complementary', { name: 'Reminders' })
  /** An event of one's own that begins so many minutes from now. */
  async function event(title: string, minutes: number): Promise<void> {
    const lists = (await call('GET', '/connections')).connections.flatMap((c: any) => c.collections)
    const into = lists.find((k: any) => k.name === 'Garden team').id
    const local = new Date(Date.now() + minutes * MINUTE).toISOString().slice(0, 19)
    const start = { kind: 'zoned', local, zone: 'UTC' }
    await call('POST', '/cloth/make', { what: 'event', title, start, minutes: 45, into })
  }
  async function choose(name: string, option: string): Promise<void> {
    await page.getByRole('button', { name }).click()
    await page.getByRole('menuitemradio', { name: option, exact: true }).click()
  }

  it('are said in sentences, and come in the page at their moment', async () => {
    await page.getByRole('button', { name: /^Account of/ }).click()
    await page.getByRole('link', { name: 'Reminders' }).click()
    await page.getByRole('heading', { name: 'Reminders', level: 1 }).waitFor()
    await page.getByRole('checkbox', { name: 'Quiet hours' }).uncheck()
    await choose('Remind me before events', '10 min before')
    await event('Zorblax rehearsal', 8)
    const card = cards().getByRole('button', { name: 'Zorblax rehearsal', exact: true })
    await card.waitFor({ timeout: 30_000 })
    expect(await cards().textContent()).to.match(/begins \d\d:\d\d, in [678] min/)
    // It leads to the event, and is done with by that.
    await card.click()
    await page.getByRole('complementary', { name: /Details of Zorblax rehearsal/ }).waitFor()
    await cards().waitFor({ state: 'detached' })
    await page.reload()
    await page.getByRole('complementary', { name: /Details of Zorblax rehearsal/ }).waitFor()
    expect(await cards().count()).to.equal(0)
  })

  it('of one item are set in its details', async () => {
    await choose('Remind me of this', 'never')
    await until('it is kept', async () =>
      (await call('GET', '/reminders/items')).items.some((i: any) => i.minutes === null),
    )
    await choose('Remind me of this', 'as usual, 10 min before')
    await until('it is as usual', async () => (await call('GET', '/reminders/items')).items.length === 0)
    await page.keyboard.press('Escape')
  })

  it('can be put off by keyboard, and go when what they are of moves', async () => {
    await event('Quennip visit', 6)
    await cards().getByRole('button', { name: 'Quennip visit', exact: true }).waitFor({ timeout: 30_000 })
    await cards().getByRole('button', { name: 'Remind me of Quennip visit again' }).focus()
    await page.keyboard.press('Enter')
    await page.getByRole('menuitemradio', { name: 'in 15 min' }).waitFor()
    await page.keyboard.press('ArrowDown')
    await page.getByRole('menuitemradio', { name: 'when it begins' }).click()
    await cards().waitFor({ state: 'detached' })
    await event('Vexil call', 7)
    const card = cards().getByRole('button', { name: 'Vexil call', exact: true })
    await card.waitFor({ timeout: 30_000 })
    const days = new Date().toISOString().slice(0, 10)
    const item = (await call('GET', `/cloth?from=${days}&days=2`)).items.find(
      (i: any) => i.title === 'Vexil call',
    )
    const local = new Date(Date.now() + 40 * MINUTE).toISOString().slice(0, 19)
    await call('POST', `/cloth/${item.key}/edit`, {
      do: 'place',
      start: { kind: 'zoned', local, zone: 'UTC' },
    })
    await until('what was told of the old time is not told any more', async () =>
      (await call('GET', '/reminders')).given.every((g: any) => g.title !== 'Vexil call'),
    )
  })

  it('reach a browser whose page is closed', async () => {
    // The browser's own message service is out of reach here: one that ships with the product takes its place.
    const made = await fetch(`${app.standins}/push/devices`, { method: 'POST', body: '{}' })
    const { id, subscription } = (await made.json()) as { id: string; subscription: object }
    const context = page.context()
    await context.grantPermissions(['notifications'], { origin: app.url })
    const content = `PushManager.prototype.subscribe = async () => ({ toJSON: () => (${JSON.stringify(subscription)}) })`
    await page.addInitScript({ content })
    await page.goto('/reminders')
    await page.getByRole('button', { name: 'Remind me on this device' }).click()
    await page.getByText(', this one').waitFor()
    const messages = async (): Promise<any[]> =>
      ((await (await fetch(`${app.standins}/push/devices/${id}`)).json()) as any).messages
    await page.getByRole('button', { name: 'Try it' }).click()
    await until('it works', async () => (await messages()).some(m => m.told.title === 'It works'))
    await event('Plimber lecture', 5)
    const told = await until(
      'it was sent',
      async () => (await messages()).find(m => m.told.title === 'Plimber lecture')?.told,
      30_000,
    )
    // What it was told is handed to it by the browser's own command.
    const tool = await context.newCDPSession(page)
    const found = new Promise<string>(resolve =>
      tool.on('ServiceWorker.workerRegistrationUpdated', ({ registrations }) => {
        const [one] = registrations
        if (one) resolve(one.registrationId)
      }),
    )
    await tool.send('ServiceWorker.enable')
    const registrationId = await found
    const deliver = (data: string) =>
      tool.send('ServiceWorker.deliverPushMessage', { origin: app.url, registrationId, data })
    await deliver(JSON.stringify(told))
    await deliver(JSON.stringify(told))
    await deliver('not to be read')
    const shown = (): Promise<string[]> =>
      page.evaluate(async () => {
        const registration = await navigator.serviceWorker.ready
        return (await registration.getNotifications()).map(n => `${n.title}: ${n.body}`)
      })
    const all = await until('it is shown', async () => {
      const now = await shown()
      return now.length >= 2 && now
    })
    // The same thing told twice is one; what cannot be read is shown as something.
    expect(all.filter(s => /^Plimber lecture: Begins \d\d:\d\d/.test(s)).length).to.equal(1)
    expect(all.length).to.equal(2)
    await page.getByRole('button', { name: /^Remove .*this one$/ }).click()
    await page.getByText('None yet.').waitFor()
  })
})
