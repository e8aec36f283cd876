import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { expect } from 'chai'
import { type App, signIn, startApp } from '../support/app.ts'

/** axe-core on every screen, in both themes. */
describe('accessibility', function () {
  this.timeout(90_000)
  let app: App
  const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

  before(async () => {
    app = await startApp({ size: 'whole' })
  })
  after(() => app.close())

  const SCREENS: [string, string][] = [
    ['/cloth', '[data-key]'],
    ['/rules', 'main li'],
    ['/rules/new', '.sentences'],
    ['/connections', 'main section'],
    ['/journal', 'main li'],
  ]

  for (const theme of ['linen', 'peat'] as const)
    it(`finds nothing to object to in ${theme}`, async () => {
      const page = await app.newPage({ theme })
      await page.goto('/sign-in')
      const found: string[] = []
      const look = async (path: string): Promise<void> => {
        await page.evaluate(axe)
        const { violations } = (await page.evaluate(
          'axe.run(document, { resultTypes: ["violations"] })',
        )) as {
          violations: { id: string; nodes: { html: string; failureSummary: string }[] }[]
        }
        for (const v of violations)
          for (const n of v.nodes) found.push(`${path} ${v.id}: ${n.html.slice(0, 160)} ${n.failureSummary}`)
      }
      await look('/sign-in')
      await signIn(page)
      for (const [path, ready] of SCREENS) {
        await page.goto(path)
        await page.locator(ready).first().waitFor()
        await look(path)
      }
      expect(found.join('\n')).to.equal('')
    })

  it('is usable at 360 pixels: nothing is wider than the screen', async () => {
    const page = await app.newPage({ width: 360, height: 740 })
    await signIn(page)
    for (const [path, ready] of SCREENS) {
      await page.goto(path)
      await page.locator(ready).first().waitFor()
      const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
      expect(over, path).to.be.at.most(0)
    }
  })
})
