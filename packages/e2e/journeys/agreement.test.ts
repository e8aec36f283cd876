import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp } from '../support/app.ts'

/** What a rule carries from one person's list to another's calendar is shown to more people once its owner agrees. */
describe('a rule between what two people own', function () {
  this.timeout(120_000)
  let app: App
  before(async () => {
    app = await startApp()
  })
  after(() => app.close())

  const call = (page: Page, method: string, path: string, body?: unknown): Promise<any> =>
    callFrom(() => page)(method, path, body)

  const upTo = async (page: Page, level: string): Promise<void> => {
    await page.getByRole('button', { name: /Up to how much/ }).click()
    await page.getByRole('menuitemradio', { name: level }).click()
  }

  it('asks its owner, who agrees up to titles and later takes that back', async () => {
    const [tobias, anouk] = [await app.newPage(), await app.newPage()]
    await signIn(tobias, 'tobias@quillmere.example')
    await signIn(anouk, 'anouk@quillmere.example')
    for (const [page, kind] of [
      [tobias, 'caldav'],
      [anouk, 'http-json'],
    ] as const) {
      const { me } = await call(page, 'GET', '/team')
      await app.sql(`UPDATE connections SET owner_id = '${me}' WHERE kind = '${kind}'`)
    }
    const close = async (page: Page): Promise<void> => {
      const { lists, me } = await call(page, 'GET', '/sharing')
      const mine: { id: string; isMine: boolean; own: boolean }[] = lists
      const changes = mine
        .filter(l => l.isMine && !l.own)
        .map(l => ({ list: l.id, to: { kind: 'everybody' }, level: null }))
      expect(changes.length, `${me} owns something`).to.be.above(0)
      await call(page, 'PUT', '/sharing', { changes })
    }
    await close(tobias)
    await close(anouk)

    // Tobias shows his calendar to everybody: some of it is Anouk’s.
    await tobias.goto('/team/sharing')
    await tobias.getByRole('gridcell', { name: /^Festival work, Everybody: nothing/ }).click()
    await tobias.keyboard.press('3')
    await tobias.getByText(/belongs to Anouk Thapa, who is asked first/).waitFor()
    await tobias.getByRole('button', { name: 'Ask Anouk' }).click()
    await tobias.getByText(/Asked Anouk Thapa/).waitFor()
    await tobias.getByRole('gridcell', { name: /^Festival work, Everybody: nothing/ }).waitFor()

    // She agrees to titles: it is not shown so, as he asked for more.
    await anouk.goto('/team/requests')
    const asked = anouk.getByRole('listitem').filter({ hasText: 'Tobias Lund asks' })
    await asked.getByText(/may show everything of Festival/).waitFor()
    await upTo(anouk, 'titles')
    await asked.getByText(/may show titles of Festival/).waitFor()
    await asked.getByRole('button', { name: 'Accept' }).click()
    await anouk.getByText(/What was asked for shows more than that/).waitFor()
    await tobias.goto('/team/sharing')
    await tobias.getByRole('gridcell', { name: /^Festival work, Everybody: nothing/ }).click()
    await tobias.keyboard.press('2')
    await tobias
      .getByText(/→ titles/)
      .first()
      .waitFor()
    await tobias.getByRole('button', { name: 'Save' }).click()
    await tobias.getByRole('gridcell', { name: /^Festival work, Everybody: titles/ }).waitFor()

    // On her list’s own page it is said, and ended.
    await anouk.goto('/team/sharing')
    await anouk.getByRole('link', { name: 'Festival', exact: true }).click()
    const carried = anouk.getByRole('region', { name: 'Carried on by rules' })
    await carried
      .getByText(/In Festival work, Ines Varga and Tobias Lund see everything of it. You agreed/)
      .waitFor()
    await upTo(anouk, 'only busy')
    await anouk.getByText(/What showed more is paused/).waitFor()
    await carried.getByText(/The rule is paused\./).waitFor()
    await Promise.all([tobias.close(), anouk.close()])
  })
})
