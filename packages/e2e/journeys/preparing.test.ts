import { expect } from 'chai'
import type { Locator, Page } from 'playwright-core'
import { type App, callFrom, signIn, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** A week is prepared beside the Cloth: by digits, by proposals, by putting small things together, and by a draft. */
describe('preparing the week', function () {
  this.timeout(120_000)
  let app: App
  let page: Page

  before(async () => {
    app = await startApp({ clock: `${weekDay(0)}T07:30:00Z` })
    const there = otherSide(app)
    page = await app.newPage({ height: 1000 })
    await signIn(page)
    await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
    const make = (title: string, more: object): Promise<unknown> =>
      call('POST', '/cloth/make', {
        what: 'task',
        title,
        start: null,
        estimate: 30,
        into: null,
        said: {},
        ...more,
      })
    for (const n of [1, 2, 3])
      await make(`Zorblax call ${n}`, {
        estimate: 15,
        week: weekDay(0),
        said: { categories: ['Zorblax calls'] },
      })
    await make('Quennip banners', { week: weekDay(0), estimate: 60 })
    await make('Vexil ropes', { week: weekDay(0), estimate: 60 })
    for (const n of [1, 2, 3, 4, 5, 6])
      await make(`Plimber bed ${n}`, { start: { kind: 'date', date: weekDay(3) }, estimate: 60 })
    await page.goto('/cloth')
    await page
      .getByRole('heading', { name: /week|November|December|–/ })
      .first()
      .waitFor()
  })
  after(() => app.close())

  const call = callFrom(() => page)
  const panel = (): Locator => page.getByRole('complementary', { name: 'Prepare the week' })
  const row = (title: string): Locator => panel().getByRole('group', { name: new RegExp(`^${title}`) })
  const item = async (title: string): Promise<any> =>
    (await call('GET', `/cloth?from=${weekDay(0)}&days=14`)).items.find((i: any) => i.title === title)

  it('plans one task by a digit, several that are selected together, and the focus goes on', async () => {
    await page.keyboard.press('e')
    await row('Quennip banners').focus()
    await page.keyboard.press('3')
    await until('it is for Wednesday', async () => (await item('Quennip banners')).place.date === weekDay(2))
    await row('Quennip banners').waitFor({ state: 'detached' })
    expect(await page.evaluate(() => document.activeElement?.getAttribute('data-key'))).to.be.a('string')
    await row('Vexil ropes').focus()
    await page.keyboard.press('0')
    await until('it is for the week after', async () => (await item('Vexil ropes')).week === weekDay(7))
    await page.getByRole('button', { name: 'Undo' }).last().click()
    await row('Vexil ropes').waitFor()
  })

  it('drafts what waits for another only after it', async () => {
    const start = { week: weekDay(0), estimate: 60 }
    for (const title of ['Wimble last', 'Wimble first']) {
      const making = { what: 'task', title, start: null, into: null, said: { priority: 1 }, ...start }
      await call('POST', '/cloth/make', making)
    }
    await page.reload()
    const onShelf = page.getByRole('group', { name: /^Wimble last/ }).first()
    await onShelf.focus()
    await page.keyboard.press('o')
    const waits = page.getByRole('region', { name: 'Waits for' })
    await waits.getByRole('button', { name: 'Add' }).click()
    await waits.getByLabel('The task that comes first').fill('Wimble first')
    await waits.getByRole('button', { name: 'Wimble first' }).click()
    await page.getByText('Wimble last waits for Wimble first.').waitFor()
    await waits.getByRole('button', { name: 'Wimble first' }).waitFor()
    await page
      .getByRole('complementary', { name: /^Details of/ })
      .getByRole('button', { name: 'Close' })
      .click()
    await page.getByText('after Wimble first').first().waitFor()
    await page.keyboard.press('f')
    const draft = page.getByRole('complementary', { name: 'Draft' })
    await draft.getByText('Wimble first').first().waitFor()
    const startOf = async (title: string): Promise<number> => {
      const piece = page.locator('[data-key^="draft "]').filter({ hasText: title }).first()
      // When it begins is a part of its key.
      return Number((await piece.getAttribute('data-key'))?.split(' ')[1])
    }
    await until('one comes after the other', async () => {
      const [first, last] = [await startOf('Wimble first'), await startOf('Wimble last')]
      return Number.isFinite(first) && first < last
    })
    await draft.getByRole('button', { name: 'Discard' }).click()
    await page.keyboard.press('e')
  })

  it('lightens a day that is too full, where another has room', async () => {
    const full = panel().getByRole('region', { name: 'Thu is too full' })
    await full
      .getByRole('button', { name: /^Plimber bed \d to / })
      .first()
      .click()
    await page.getByText(/^Plimber bed \d: moved\.$/).waitFor()
    await until('one has gone to another day', async () => {
      const { items } = await call('GET', `/cloth?from=${weekDay(0)}&days=7`)
      const beds = items.filter((i: any) => i.title.startsWith('Plimber bed'))
      return beds.filter((i: any) => i.place.date !== weekDay(3)).length === 1
    })
  })

  it('puts small tasks of one category together', async () => {
    const alike = panel().getByRole('region', { name: 'Alike: Zorblax calls' })
    await alike.getByRole('button', { name: /^Make a batch on/ }).click()
    await page.getByText(/^Zorblax calls: 3 tasks together/).waitFor()
    await alike.waitFor({ state: 'detached' })
    await row('Zorblax call 1').waitFor({ state: 'detached' })
  })

  it('takes all proposals by one key, drafts the rest, and is there again afterwards with nothing lost', async () => {
    await panel()
      .getByRole('button', { name: /^Take (all|the)/ })
      .waitFor()
    await panel().focus()
    await page.keyboard.press('a')
    await page.getByText(/planned as proposed|: planned\./).waitFor()
    await until('it has its day', async () => (await item('Vexil ropes')).place.kind === 'day')
    await panel().getByRole('button', { name: 'Draft the rest' }).click()
    const draft = page.getByRole('complementary', { name: 'Draft' })
    await draft
      .getByRole('button', { name: /^(Close|Discard)/ })
      .first()
      .click()
    await panel().waitFor()
    await panel().getByRole('button', { name: 'Close' }).click()
    await panel().waitFor({ state: 'detached' })
  })

  it('says what is new since, and shows a coordinator everybody', async () => {
    await until('what was there is remembered', async () => {
      const { planning } = await call('GET', '/planning')
      return planning.prepared.week === weekDay(0) && planning.prepared.seen.length > 0
    })
    await call('POST', '/cloth/make', {
      what: 'event',
      title: 'Orrible visitors',
      kind: 'meeting',
      guests: [],
      repeats: null,
      start: { kind: 'zoned', local: `${weekDay(4)}T13:00:00`, zone: 'Europe/Dublin' },
      minutes: 60,
      into: null,
      said: {},
    })
    await page.getByRole('button', { name: 'Prepare' }).click()
    await panel()
      .getByRole('region', { name: 'New appointments' })
      .getByText(/Orrible visitors, Fri 13:00/)
      .waitFor()
    await panel()
      .getByRole('button', { name: /^Tobias Lund/ })
      .click()
    await row('Plimber bed 1').waitFor({ state: 'detached' })
    await panel().getByRole('button', { name: 'The week after' }).click()
    await panel()
      .getByText(/^Prepare /)
      .waitFor()
  })

  it('knows the way to appointments, and counts it', async () => {
    await panel().getByRole('button', { name: 'Close' }).click()
    await page.getByRole('button', { name: /^This week/ }).click()
    await page.keyboard.press('f')
    await page.getByRole('button', { name: 'Work windows, regulars, travel' }).click()
    await page.getByRole('button', { name: 'Add places' }).click()
    await page.getByRole('button', { name: 'Add a place' }).click()
    await page.getByLabel('Place 1', { exact: true }).fill('Long Room')
    await page.getByLabel('Minutes to place 1').fill('20')
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByText('Travel: saved.').waitFor()
    const way = page.getByRole('group', { name: /^To Long Room, .*09:10–09:30/ })
    await way.waitFor()
    await page.getByRole('button', { name: 'Back to the draft' }).click()
    await page.getByRole('button', { name: 'Discard' }).click()
    // What can be done to the way is done to its appointment.
    await way.click()
    await page.getByRole('dialog', { name: /^Trustees/ }).waitFor()
    await page.keyboard.press('Escape')
    await page.locator('[title*="of travel"]').first().waitFor({ state: 'attached' })
  })
})
