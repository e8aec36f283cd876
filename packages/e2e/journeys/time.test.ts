import { expect } from 'chai'
import { readFile } from 'node:fs/promises'
import type { Locator, Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp, storyTold, until, weekDay } from '../support/app.ts'

/** Time taken: a clock, time written down afterwards, and the report that every figure of which opens its parts. */
describe('time taken', function () {
  this.timeout(120_000)
  let app: App
  let page: Page

  before(async () => {
    app = await startApp({ clock: `${weekDay(1)}T11:12:00Z`, size: 'whole' })
    page = await app.newPage({ height: 1000 })
    await signIn(page)
    await storyTold(page)
    const making = {
      what: 'task',
      title: 'Zorblax lamps',
      start: { kind: 'date', date: weekDay(1) },
      estimate: 45,
      into: null,
      said: {},
    }
    await callFrom(() => page)('POST', '/cloth/make', making)
    await until('ten weeks are written down', async () => {
      const { periods } = await callFrom(() => page)(
        'GET',
        `/time/report?from=${weekDay(-70)}&to=${weekDay(2)}`,
      )
      return periods.length > 9 && periods[1].minutes > 600
    })
    await page.goto('/cloth')
    await item().waitFor()
  })
  after(() => app.close())

  const item = (): Locator => page.getByRole('group', { name: /^Zorblax lamps/ }).first()

  it('is clocked by a key, seen on every screen, and written down by hand beside it', async () => {
    await item().focus()
    await page.keyboard.press('k')
    await page.getByText('Zorblax lamps: the clock runs.').waitFor()
    await page.getByRole('link', { name: 'Rules' }).click()
    const stop = page.getByRole('button', { name: 'Stop the clock' })
    await stop.waitFor()
    await stop.click()
    await page.getByText(/nothing is written down|written down\./).waitFor()
    await stop.waitFor({ state: 'detached' })
    await page.goto('/cloth')
    await item().focus()
    await page.keyboard.press('o')
    const time = page.getByRole('region', { name: 'Time taken' })
    await time.getByRole('button', { name: 'Add time' }).click()
    await time.getByLabel('Minutes taken').fill('25')
    await page.keyboard.press('Enter')
    await page.getByText('Zorblax lamps: 25 min written down.').waitFor()
    await time.getByText('25 min of mine, estimated 45 min').waitFor()
    await time.getByRole('button', { name: 'Remove' }).click()
    await page.getByText('Zorblax lamps: removed.').waitFor()
    await time.getByText('of mine').waitFor({ state: 'detached' })
    await page.getByRole('button', { name: 'Undo' }).last().click()
    await time.getByText('25 min of mine').waitFor()
  })

  it('is told by week and category, each figure with what it is made of, which can be corrected', async () => {
    await page.goto('/time')
    const chart = page.getByRole('region', { name: 'Each week' })
    await chart.getByRole('button', { name: 'Table' }).click()
    const [row] = await chart.getByRole('row').filter({ hasText: 'Week' }).all()
    const figure = chart.getByRole('row').nth(2).getByRole('button').first()
    const words = await figure.textContent()
    expect(row).to.not.equal(undefined)
    await figure.click()
    const list = page.getByRole('region', { name: /to \d+ \w+$/ })
    await list.getByRole('listitem').first().waitFor()
    expect(
      (await list.getByRole('heading').locator('..').textContent())?.includes(words?.trim() ?? '?'),
    ).to.equal(true)
    const entry = list.getByRole('listitem').filter({ hasText: 'by the clock' }).first()
    await entry.getByRole('button').first().click()
    await list.getByLabel('Minutes').fill('7')
    await page.keyboard.press('Enter')
    await page.getByText(/: changed\.$/).waitFor()
    await list.getByRole('button', { name: /^7 min/ }).waitFor()
    await page.keyboard.press('Escape')
  })

  it('teaches what estimates should be, and drafts count it once somebody says so', async () => {
    await page.goto('/time')
    const card = page.getByRole('region', { name: 'What estimates should be' })
    await card.getByRole('button', { name: 'Count it so in drafts' }).first().click()
    await card.getByRole('button', { name: /stop that$/ }).waitFor()
    await until('it is kept', async () => {
      const { planning } = await callFrom(() => page)('GET', '/planning')
      return planning.factors.Glasshouses === 1.6
    })
    await page.reload()
    await card.getByRole('button', { name: /stop that$/ }).click()
    await card.getByRole('button', { name: 'Count it so in drafts' }).first().waitFor()
  })

  it('tells of the team only whole weeks of everybody, and gives both as files', async () => {
    await page.goto('/time?of=team')
    const team = page.getByRole('region', { name: 'Each week of the team' })
    await team.getByRole('row').nth(3).waitFor()
    expect(await team.getByRole('button').count()).to.equal(0)
    for (const [path, head] of [
      ['/time?of=team', 'week,category,minutes'],
      ['/time', 'day,from,to,minutes'],
    ] as const) {
      await page.goto(path)
      const waiting = page.waitForEvent('download')
      await page.getByRole('link', { name: 'Export CSV' }).click()
      const file = await readFile(await (await waiting).path(), 'utf8')
      expect(file.startsWith(head)).to.equal(true)
      expect(file.split('\n').length).to.be.greaterThan(8)
    }
  })
})
