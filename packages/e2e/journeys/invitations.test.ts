import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp, until, weekDay } from '../support/app.ts'
import { arrives } from '../support/invitation-mail.ts'

/** Guests are invited from the Cloth and told by mail; what comes by mail is seen against the plan and answered. */
describe('invitations', function () {
  this.timeout(90_000)
  let app: App
  let page: Page
  const call = callFrom(() => page)

  before(async () => {
    app = await startApp({ clock: `${weekDay(0)}T06:10:00Z` })
    page = await app.newPage()
    await signIn(page)
  })
  after(() => app.close())

  const letters = async (about: string): Promise<any[]> => {
    const all = (await (await fetch(`${app.standins}/mailbox/messages`)).json()) as { letters: any[] }
    return all.letters.filter(l => l.subject.includes(about))
  }
  it('go from the drawer to a guest by mail, and show what the guest answers once it counts', async () => {
    const start = { kind: 'zoned', local: `${weekDay(1)}T17:00:00`, zone: 'UTC' }
    const making = { what: 'event', title: 'Zorblax tour', start, minutes: 45, into: null, said: {} }
    await call('POST', '/cloth/make', making)
    // Until it has arrived it is drawn under another key: what has the focus then would lose it.
    await until('it has arrived', async () => {
      const { items } = await call('GET', `/cloth?from=${weekDay(0)}&days=7`)
      return items.some((i: any) => i.title === 'Zorblax tour' && !i.pending)
    })
    await page.goto('/cloth')
    const block = page.getByRole('group', { name: /^Zorblax tour/ }).first()
    await block.focus()
    await page.keyboard.press('o')
    await page.getByLabel('Invite somebody').fill('orla@trustees.example')
    await page.keyboard.press('Enter')
    await page.getByText('Zorblax tour: orla@trustees.example invited.').waitFor()
    const [letter] = await until(
      'she is told',
      async () => {
        const found = await letters('Zorblax tour')
        return found.length > 0 && found
      },
      60_000,
    )
    const flat = letter.calendar.replace(/\r\n /g, '')
    const lines = [
      /^UID:.*$/m.exec(flat)?.[0].trim() ?? '',
      'ATTENDEE;PARTSTAT=ACCEPTED:mailto:orla@trustees.example',
    ]
    const to = /ORGANIZER[^:]*:mailto:(\S+)/.exec(flat)?.[1] ?? ''
    await arrives(app, { method: 'REPLY', title: 'Zorblax tour', lines, to })
    await page.getByText('It is not proven that this mail is theirs.').waitFor()
    await page.getByRole('button', { name: 'It counts' }).click()
    await page.getByText('It is not proven that this mail is theirs.').waitFor({ state: 'detached' })
    await until('it counts', async () => {
      const { items } = await call('GET', `/cloth?from=${weekDay(0)}&days=7`)
      const { key } = items.find((i: any) => i.title === 'Zorblax tour')
      return (await call('GET', `/cloth/${key}`)).guests.guests[0].answer === 'accepted'
    })
    await page.keyboard.press('Escape')
  })

  it('that come by mail are seen on every page, against the plan, and stand in it once answered', async () => {
    await call('POST', '/doors', { kind: 'mail' })
    const { doors } = await call('GET', '/doors')
    const lines = [
      'UID:vexil-1',
      `DTSTART:${weekDay(1).replaceAll('-', '')}T171500Z`,
      'DURATION:PT30M',
      'ORGANIZER:mailto:orla@trustees.example',
      'ATTENDEE:mailto:ines@quillmere.example',
    ]
    const to = doors.find((d: any) => d.kind === 'mail').address
    await arrives(app, { method: 'REQUEST', title: 'Vexil board', lines, to })
    await page.getByRole('link', { name: 'An invitation waits for your answer' }).click()
    const card = page.getByRole('article', { name: 'Vexil board' })
    await card.getByText('From orla@trustees.example, which is not proven').waitFor()
    await card.getByRole('link', { name: 'Zorblax tour' }).waitFor()
    await card.getByLabel('A word with your answer to Vexil board').fill('A little late')
    await card.getByRole('button', { name: 'Perhaps' }).focus()
    await page.keyboard.press('Enter')
    await page.getByText('Vexil board: perhaps. They are told by mail.').waitFor()
    await card.getByRole('button', { name: 'Perhaps', pressed: true }).waitFor()
    const [reply] = await until(
      'she is told',
      async () => {
        const found = await letters('Perhaps: Vexil board')
        return found.length > 0 && found
      },
      30_000,
    )
    expect(reply.calendar).to.match(/PARTSTAT=TENTATIVE/)
    await page.goto('/cloth')
    await page
      .getByRole('group', { name: /^Vexil board/ })
      .first()
      .waitFor()
    await page.goto('/invitations')
    await card.getByRole('button', { name: 'Put away' }).click()
    await page.getByRole('heading', { name: 'None so far' }).waitFor()
  })
})
