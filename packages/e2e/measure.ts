import { writeFileSync } from 'node:fs'
import type { Page } from 'playwright-core'
import { watchStolen } from '../server/bench/stolen.ts'
import { signIn, startApp, storyTold, until, weekDay } from './support/app.ts'

/** What the Cloth costs in the page: opening it cold, leafing through weeks, and dragging among many blocks. */

const BLOCKS = 600
const lines: string[] = ['## The Cloth in the page, Chromium without a screen', '']
const part = (all: number[], share: number): number =>
  [...all].sort((x, y) => x - y)[Math.min(all.length - 1, Math.floor(all.length * share))] ?? 0
const ms = (n: number, digits = 0): string => `${n.toFixed(digits)} ms`

const app = await startApp({ size: 'whole', clock: `${weekDay(0)}T07:30:00Z` })
const first = await app.newPage()
await signIn(first)
await storyTold(first)

/**
 * From the address to the frame in which blocks can be seen, with nothing in the browser's cache. The page itself notes
 * the moment: whoever looks for it from outside, by names and roles, makes it later by a fifth.
 */
async function cold(): Promise<number> {
  const page = await app.newPage()
  await page.context().addCookies(await first.context().cookies())
  await page.addInitScript(() => {
    const watch = new MutationObserver(() => {
      if (!document.querySelector('[data-drag="block"]')) return
      watch.disconnect()
      requestAnimationFrame(() => requestAnimationFrame(() => performance.mark('seen')))
    })
    watch.observe(document, { childList: true, subtree: true })
  })
  await page.goto('/cloth', { waitUntil: 'commit' })
  const seen = await page.waitForFunction(() => performance.getEntriesByName('seen')[0]?.startTime, null, {
    polling: 100,
  })
  const took = Number(await seen.jsonValue())
  await page.context().close()
  return took
}
const stolen = watchStolen()
const colds: number[] = []
for (let i = 0; i < 15; i++) colds.push(await cold())

/** From the click to the frame in which the other week is drawn. */
const leaf = (page: Page, name: string): Promise<number> =>
  page.evaluate(async button => {
    const before = document.querySelector('h1')?.textContent
    const from = performance.now()
    document.querySelector<HTMLButtonElement>(`button[aria-label="${button}"]`)?.click()
    for (;;) {
      await new Promise(requestAnimationFrame)
      const drawn = document.querySelectorAll('[data-drag="block"]').length > 0
      if (document.querySelector('h1')?.textContent !== before && drawn) return performance.now() - from
    }
  }, name)
const leafs: number[] = []
for (let i = 0; i < 30; i++) leafs.push(await leaf(first, i % 2 ? 'The week before' : 'The week after'))

/**
 * A piece of a draft is held over others: how long after the hand the rest has given way, and how long each frame took
 * meanwhile, ms.
 */
async function draftDrag(page: Page): Promise<{ behind: number[]; frames: number[] }> {
  await page.keyboard.press('f')
  const pieces = page.locator('[data-area="cloth"] [data-key^="draft "]')
  await until('a draft', async () => (await pieces.count()) > 8)
  await page.getByLabel('How far the draft is').waitFor({ state: 'detached' })
  const behind: number[] = []
  const frames: number[] = []
  const count = await pieces.count()
  const pairs = Array.from({ length: count }, (_, i) => [1, -1, 2].map(by => [i, i + by] as const)).flat()
  for (const [i, other] of pairs) {
    // A task that goes to other days may be of fewer pieces than before.
    const there = await pieces.count()
    if (behind.length >= 20 || other < 0 || i >= there || other >= there) continue
    const held = pieces.nth(i)
    const from = await held.boundingBox()
    const own = await held.getAttribute('data-key')
    if (!from || own === null || from.y > 700) continue
    await page.mouse.move(from.x + 3, from.y + 8)
    await page.mouse.down()
    await page.mouse.move(from.x + 12, from.y + 8, { steps: 3 })
    await page.waitForTimeout(300)
    // What is under the hand next, as the rest lies now.
    const under = pieces.nth(other)
    const to = await under.boundingBox()
    const key = await under.getAttribute('data-key')
    if (!to || key === null || key === own || to.y > 700) {
      await page.keyboard.press('Escape')
      await page.mouse.up()
      continue
    }
    const gaveWay = page.evaluate(
      async ([gone]) => {
        const selector = `[data-key="${CSS.escape(gone ?? '')}"]`
        const wasGone = document.querySelector(selector) === null
        const began = await new Promise<number | null>(done => {
          document.addEventListener('pointermove', () => done(performance.now()), {
            once: true,
            capture: true,
          })
          setTimeout(() => done(null), 1500)
        })
        if (began === null || wasGone) return { took: [], behind: null }
        const took: number[] = []
        for (let last = began; ;) {
          const now = await new Promise<number>(requestAnimationFrame)
          took.push(now - last)
          last = now
          if (!document.querySelector(selector)) return { took, behind: performance.now() - began }
          if (now - began > 1500) return { took, behind: null }
        }
      },
      [key],
    )
    await page.mouse.move(to.x + 6, to.y + 8)
    const found = await gaveWay
    // Where both have room beside one another, nothing gives way.
    if (found.behind !== null) {
      behind.push(found.behind)
      frames.push(...found.took.slice(1))
    }
    await page.keyboard.press('Escape')
    await page.mouse.up()
    await page.waitForTimeout(400)
  }
  await page.getByRole('button', { name: 'Discard' }).click()
  return { behind, frames }
}
const drafted = await draftDrag(first)

// Many blocks, by the calendar's own protocol.
const headers = { Authorization: `Basic ${btoa('ines:moonflower')}` }
for (let n = 0; n < BLOCKS; n++) {
  const day = weekDay(n % 7).replaceAll('-', '')
  const minute = 8 * 60 + ((Math.floor(n / 7) * 15) % (9 * 60))
  const hour = `${String(Math.floor(minute / 60)).padStart(2, '0')}${String(minute % 60).padStart(2, '0')}00`
  const text = [
    'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//bench//EN\r\nBEGIN:VEVENT',
    `UID:many-${n}\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;TZID=Europe/Dublin:${day}T${hour}`,
    `DURATION:PT15M\r\nSUMMARY:Round ${n}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`,
  ].join('\r\n')
  const url = `${app.standins}/garden/dav/calendars/ines/garden-team/many-${n}.ics`
  await fetch(url, { method: 'PUT', headers, body: text })
}
await until(
  'all blocks are there',
  async () => (await first.locator('[data-drag="block"]').count()) >= BLOCKS,
  120_000,
)
const seen = await first.locator('[data-drag="block"]').count()

/** Scripting, style and layout of each step of a drag across the rows, ms. */
async function drag(page: Page): Promise<number[]> {
  const tool = await page.context().newCDPSession(page)
  await tool.send('Performance.enable')
  const spent = async (): Promise<number> => {
    const { metrics } = await tool.send('Performance.getMetrics')
    const of = (name: string): number => metrics.find(m => m.name === name)?.value ?? 0
    return 1000 * (of('ScriptDuration') + of('LayoutDuration') + of('RecalcStyleDuration'))
  }
  const block = page.getByRole('group', { name: /^Round 7\D/ }).first()
  await block.scrollIntoViewIfNeeded()
  const box = await block.boundingBox()
  if (!box) throw new Error('no block to drag')
  const [x, y] = [box.x + 4, box.y + box.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + 10, y, { steps: 3 })
  const steps: number[] = []
  for (let i = 1; i <= 90; i++) {
    const before = await spent()
    await page.mouse.move(x + 10 + i * 5, y + (i % 30) * 3)
    await page.evaluate(() => new Promise(requestAnimationFrame))
    steps.push((await spent()) - before)
  }
  await page.keyboard.press('Escape')
  await page.mouse.up()
  return steps
}
const steps = await drag(first)

const table: [string, string, string][] = [
  [
    `a piece of a draft held over another: until that gives way, ${drafted.behind.length} times`,
    ms(part(drafted.behind, 0.5)),
    ms(part(drafted.behind, 0.95)),
  ],
  ['a frame meanwhile', ms(part(drafted.frames, 0.5), 1), ms(part(drafted.frames, 0.95), 1)],
  ['opening it cold, demo data, until blocks can be seen', ms(part(colds, 0.5)), ms(part(colds, 0.95))],
  ['another week, from the click to the frame', ms(part(leafs, 0.5)), ms(part(leafs, 0.95))],
  [
    `dragging among ${seen} blocks: scripting, style and layout a step`,
    ms(part(steps, 0.5), 1),
    ms(part(steps, 0.95), 1),
  ],
]
lines.push(
  '| what | median | p95 |',
  '| --- | --- | --- |',
  ...table.map(r => `| ${r.join(' | ')} |`),
  '',
  stolen(),
)
process.stdout.write(`\n${lines.join('\n')}\n`)
if (process.env.LOOM_BENCH_PAGE) writeFileSync(process.env.LOOM_BENCH_PAGE, `${lines.join('\n')}\n`)
await app.close()
process.exit(0)
