import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, signIn, startApp, storyTold } from '../support/app.ts'

/** axe-core on every screen, in both themes. */
describe('accessibility', function () {
  this.timeout(360_000)
  let app: App
  const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

  before(async () => {
    app = await startApp({ size: 'whole' })
  })
  after(() => app.close())

  const SCREENS: [string, string][] = [
    ['/cloth', '[data-key]'],
    ['/day', 'main [data-key]'],
    ['/time', '[aria-label="What keeps slipping"] p'],
    ['/time?of=team', '[aria-label="What is told here"]'],
    ['/rules', 'main li'],
    ['/rules/new', '.kinds'],
    ['/rules/new?kind', '.sentences'],
    ['/rules/:rule', '.preview li'],
    ['/rules/conflicts', 'main h2'],
    ['/rules/brake', 'main h2'],
    ['/rules/chains', 'main svg'],
    ['/connections', 'main section'],
    ['/connections/new', 'main li'],
    ['/connections/new?service', '.form'],
    ['/connections/:id/settings', '.sentence'],
    ['/journal', 'main li'],
    ['/categories', 'main table'],
    ['/me', 'main form'],
    ['/reminders', 'main ul, main .push'],
    ['/invitations', 'main .sheet'],
    ['/team', 'main table'],
    ['/team/sharing', '[role=grid]'],
    ['/team/activity', 'main ol'],
    ['/team/new', 'main form'],
    ['/forgot', 'main form'],
  ]

  const more = async (page: Page, item: string): Promise<void> => {
    await page.getByRole('button', { name: 'More for Repairs Board' }).click()
    await page.getByRole('menuitem', { name: item }).click()
  }
  const span = async (page: Page, name: string): Promise<void> => {
    await page.getByRole('radio', { name, exact: true }).click()
    await page.locator('main .sheet').first().waitFor()
  }
  /** The Cloth drawn in its other ways, and what opens on it. */
  const ON_THE_CLOTH: { name: string; open: (page: Page) => Promise<void> }[] = [
    { name: 'people', open: page => span(page, 'People') },
    {
      name: 'a day of people',
      open: async page => {
        await span(page, 'People')
        await span(page, 'Day')
      },
    },
    { name: 'a month', open: page => span(page, 'Month') },
    { name: 'a list', open: page => span(page, 'List') },
    {
      name: 'coloured by category',
      open: async page => {
        await page.getByRole('button', { name: 'What colours them' }).click()
        await page.getByRole('menuitemradio', { name: 'category' }).click()
        await page.getByRole('link', { name: 'Names and colours' }).waitFor()
      },
    },
    { name: 'the menu', open: page => page.locator('[data-key]').first().click() },
    {
      name: 'the drawer',
      open: async page => {
        await page.locator('.shelf [data-key]').first().focus()
        await page.keyboard.press('o')
        await page.getByRole('heading', { name: 'History' }).waitFor()
        await page
          .locator('.ant-drawer-enter, .ant-drawer-panel-motion-right-enter')
          .waitFor({ state: 'detached' })
      },
    },
    {
      name: 'keeping time',
      open: async page => {
        await page.keyboard.press('n')
        await page.getByRole('combobox', { name: 'What is this time for?' }).fill('Walk')
      },
    },
    {
      name: 'writing down',
      open: async page => {
        await page.getByRole('combobox', { name: /^Add, search/ }).fill('Call the mill tomorrow 9:00, urgent')
        await page.getByText('planned').waitFor()
      },
    },
    {
      name: 'a draft and its reasons',
      open: async page => {
        await page.keyboard.press('f')
        const draft = page.getByRole('complementary', { name: 'Draft' })
        await draft
          .getByRole('button', { name: /, no estimate/ })
          .first()
          .click()
        await draft.getByRole('button', { name: 'Pin here' }).waitFor()
      },
    },
    {
      name: 'a work window',
      open: async page => {
        await page.keyboard.press('f')
        await page.getByRole('button', { name: 'Work windows, regulars, travel' }).click()
        await page.getByRole('button', { name: 'Add a work window' }).click()
        await page.getByLabel('Name').fill('Bench hours')
      },
    },
    {
      name: 'an address for calendar programs',
      open: async page => {
        await page.getByRole('button', { name: 'Saved views' }).click()
        await page.getByRole('button', { name: 'For calendar programs…' }).click()
        await page.getByRole('region', { name: 'What a reader is told' }).locator('li').first().waitFor()
        await page.locator('.ant-zoom-enter, .ant-zoom-appear').waitFor({ state: 'detached' })
      },
    },
    {
      name: 'a time among colleagues',
      open: async page => {
        await page.getByRole('button', { name: 'Offer', exact: true }).click()
        await page.getByRole('button', { name: 'among us' }).click()
        await page.getByRole('button', { name: 'With which colleagues' }).click()
        await page
          .getByRole('menuitemcheckbox')
          .or(page.getByRole('checkbox', { name: 'Anouk Thapa' }))
          .first()
          .click()
        await page.keyboard.press('Escape')
        await page.getByRole('list', { name: 'The best times' }).getByRole('button').first().click()
        await page.getByRole('textbox', { name: 'What we meet about' }).waitFor()
      },
    },
    { name: 'sources', open: page => page.getByRole('button', { name: /^Sources/ }).click() },
  ]
  const DIALOGS: { name: string; open: (page: Page) => Promise<void> }[] = [
    { name: 'where', open: page => more(page, 'Where is it?') },
    { name: 'disconnect', open: page => more(page, 'Disconnect') },
    {
      name: 'a file',
      open: async page => {
        await page.getByRole('button', { name: 'Import a file' }).click()
        await page
          .getByRole('dialog')
          .locator('input[type=file]')
          .setInputFiles({
            name: 'jobs.csv',
            mimeType: 'text/csv',
            buffer: Buffer.from('Title,Due\nSweep,2026-12-01\n'),
          })
        await page.getByText('1 new').waitFor()
      },
    },
    { name: 'out', open: page => page.getByRole('button', { name: 'Export a file' }).click() },
  ]

  async function open(page: Page, path: string, ready: string): Promise<void> {
    const { rules } = (await (await page.request.get('/api/rules')).json()) as { rules: { id: string }[] }
    const to = path.replace(/\?\w+$/, '').replace(':rule', rules[0]?.id ?? '')
    await page.goto(to.replace(':id', await idOf(page)))
    if (path.endsWith('?kind')) await page.getByRole('button', { name: /^Two lists as one/ }).click()
    if (path.endsWith('?service')) await page.getByRole('button', { name: /^Gatehouse Mail/ }).click()
    await page.locator(ready).first().waitFor()
  }
  const idOf = async (page: Page): Promise<string> => {
    const answer = await page.request.get('/api/connections')
    const { connections } = (await answer.json()) as { connections: { id: string; name: string }[] }
    return connections.find(c => c.name === 'Repairs Board')?.id ?? ''
  }

  /** Opens all that stands over a screen, one after the other, and has it looked at. */
  async function openEach(page: Page, look: (name: string) => Promise<void>): Promise<void> {
    for (const dialog of DIALOGS) {
      await page.goto('/connections')
      await dialog.open(page)
      await page.getByRole('dialog').waitFor()
      // Ant Design's dialogs grow in; what is half transparent has no contrast yet.
      await page.locator('.ant-zoom-enter, .ant-zoom-appear').waitFor({ state: 'detached' })
      await look(dialog.name)
    }
    for (const { name, open: show } of ON_THE_CLOTH) {
      await page.evaluate('localStorage.clear()')
      await page.goto('/cloth')
      await page.locator('[data-key]').first().waitFor()
      await page.getByRole('radio', { name: 'Week', exact: true }).click()
      // On a telephone, its days come one under another.
      await page.locator('[data-area="cloth"] [data-drag]').first().waitFor()
      await show(page)
      await look(`the Cloth, ${name}`)
    }
  }

  /** What a page is made of is the same in both themes; what can be told from what is not. */
  const RULES = { linen: '', peat: ', runOnly: ["color-contrast", "link-in-text-block"]' }
  for (const theme of ['linen', 'peat'] as const)
    it(`finds nothing to object to in ${theme}`, async () => {
      const page = await app.newPage({ theme })
      await page.goto('/sign-in')
      const found: string[] = []
      const look = async (path: string): Promise<void> => {
        await page.evaluate(axe)
        const { violations } = (await page.evaluate(
          `axe.run(document, { resultTypes: ["violations"]${RULES[theme]} })`,
        )) as {
          violations: { id: string; nodes: { html: string; failureSummary: string }[] }[]
        }
        for (const v of violations)
          for (const n of v.nodes) found.push(`${path} ${v.id}: ${n.html.slice(0, 160)} ${n.failureSummary}`)
      }
      await page.getByLabel('Mail address').waitFor()
      await look('/sign-in')
      await signIn(page)
      // The first to look would else look at a demo that is still being read in.
      await storyTold(page)
      for (const [path, ready] of SCREENS) {
        await open(page, path, ready)
        await look(path)
      }
      await openEach(page, look)
      expect(found.join('\n')).to.equal('')
    })

  it('is usable at 360 pixels: the list comes first, and nothing is wider than the screen', async () => {
    const page = await app.newPage({ width: 360, height: 740 })
    await signIn(page)
    await page.getByRole('radio', { name: 'List', checked: true }).waitFor()
    const shelf = page.getByRole('heading', { name: 'Shelf' })
    await page.getByRole('button', { name: /^Shelf \d+/ }).click()
    expect((await shelf.boundingBox())?.y, 'the shelf is one step away').to.be.within(40, 400)
    for (const [path, ready] of SCREENS) {
      await open(page, path, ready)
      const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
      expect(over, path).to.be.at.most(0)
    }
  })

  it('has what floats over the screen in sight at 360 pixels', async () => {
    const page = await app.newPage({ width: 360, height: 740 })
    await signIn(page)
    const cut: string[] = []
    const look = async (name: string): Promise<void> => {
      const floating = page
        .locator('.ant-drawer-content, [role="dialog"], [role="listbox"], aside')
        .filter({ visible: true })
      for (const box of await floating.evaluateAll(all =>
        all.map(e => e.getBoundingClientRect().toJSON() as DOMRect),
      ))
        if (box.left < 0 || box.right > 360) cut.push(`${name}: from ${box.left} to ${box.right}`)
    }
    await openEach(page, look)
    expect(cut.join('\n')).to.equal('')
  })
})
