import { type ChildProcess, spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { createConnection } from 'mariadb'
import { nodeFlags } from '../../../scripts/node-flags.mjs'
import { type Browser, type BrowserContext, chromium, type Locator, type Page } from 'playwright-core'
import { freePort } from '../../../scripts/free-port.mjs'

export { weekDay } from '@loom/standins'

/** The built product with its stand-ins, each its own process as under npm start, and a browser. */

const ROOT = resolve(fileURLToPath(import.meta.url), '../../../..')

export interface App {
  url: string
  /** Where the application takes mail. */
  smtpPort: number
  standins: string
  newPage: (options?: { theme?: 'linen' | 'peat'; width?: number; height?: number }) => Promise<Page>
  /** Runs a statement against this run's own database. */
  sql: (statement: string) => Promise<void>
  /** Where the first person begins, as the server says it. */
  begin: () => Promise<string>
  close: () => Promise<void>
}

/** `said`: told of what it says, from the first line on. */
function part(
  file: string,
  env: Record<string, string>,
  said: (text: string) => void = () => undefined,
): Promise<ChildProcess> {
  const child = spawn(process.execPath, [...nodeFlags, join(ROOT, file)], {
    cwd: ROOT,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
  })
  child.stdout?.on('data', (text: Buffer) => said(String(text)))
  return new Promise((done, reject) => {
    child.stdout?.once('data', () => done(child))
    child.once('exit', code => reject(new Error(`${file} ended (${code})`)))
  })
}

const ended = (child: ChildProcess): Promise<void> =>
  new Promise(done => {
    child.once('exit', () => done())
    child.kill('SIGTERM')
  })

export async function startApp({
  clock,
  size = 'small',
  empty = false,
}: {
  clock?: string
  size?: 'small' | 'whole'
  /** Without the demo. */ empty?: boolean
} = {}): Promise<App> {
  const server = process.env.TEST_DATABASE_URL
  if (!server) throw new Error('TEST_DATABASE_URL is not set: run the journeys with npm test.')
  const name = `loom_e_${randomBytes(6).toString('hex')}`
  const { hostname, port, username, password } = new URL(server)
  const login = { host: hostname, port: Number(port), user: username, password: decodeURIComponent(password) }
  const query = async (statement: string, database?: string): Promise<void> => {
    const c = await createConnection({ ...login, ...(database ? { database } : {}) })
    await c.query(statement)
    await c.end()
  }
  await query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin`)
  const [appPort, standinsPort, mailPort, smtpPort] = [
    await freePort(),
    await freePort(),
    await freePort(),
    await freePort(),
  ]
  const standins = `http://127.0.0.1:${standinsPort}`
  const time: Record<string, string> = clock ? { LOOM_CLOCK: clock } : {}
  const others = await part('dist/app/standins.js', {
    ...time,
    STANDINS_SIZE: size,
    STANDINS_PORT: String(standinsPort),
    STANDINS_MAIL_PORT: String(mailPort),
    STANDINS_DATA: mkdtempSync(join(tmpdir(), 'loom-standins-')),
  })
  let said = ''
  const app = await part(
    'dist/app/server.js',
    {
      ...time,
      LOOM_PORT: String(appPort),
      LOOM_SMTP_PORT: String(smtpPort),
      LOOM_MAIL_URL: `smtp://127.0.0.1:${mailPort}`,
      DATABASE_URL: server.replace(/\/loom(?=\?|$)/, `/${name}`),
      LOOM_SECRET: 'cd'.repeat(32),
      LOOM_ALLOW_HOSTS: `127.0.0.1:${standinsPort}`,
      ...(empty ? {} : { LOOM_DEMO: standins, LOOM_DEMO_SIZE: size }),
      LOOM_WEB: join(ROOT, 'packages/web/dist'),
      LOOM_LOG: 'error',
    },
    text => (said += text),
  ).catch(async (error: unknown) => {
    // Nothing is left that a run would wait for.
    await ended(others)
    throw error
  })
  const browser: Browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--headless',
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      `--disable-features=${NOT_OURS.join(',')}`,
    ],
  })
  const url = `http://127.0.0.1:${appPort}`
  const contexts: BrowserContext[] = []
  return {
    url,
    standins,
    smtpPort,
    begin: () => until('where to begin', async () => /Begin here, once, within a day: (\S+)/.exec(said)?.[1]),
    sql: statement => query(statement, name),
    newPage: async ({ theme = 'linen', width = 1280, height = 800 } = {}) => {
      const context = await browser.newContext({
        viewport: { width, height },
        colorScheme: theme === 'peat' ? 'dark' : 'light',
        reducedMotion: 'reduce',
        baseURL: url,
      })
      contexts.push(context)
      const page = await context.newPage()
      page.setDefaultTimeout(Number(process.env.E2E_TIMEOUT ?? 12_000))
      return page
    },
    close: async () => {
      await browser.close()
      await ended(app)
      await ended(others)
      await query(`DROP DATABASE ${name}`)
    },
  }
}

/**
 * The browser's own: pages of its address field, which it loads with every window beside the page that is tried, and
 * what Playwright turns off by the same argument, of which only the last counts.
 */
const NOT_OURS = [
  'WebUIOmniboxPopup',
  'WebUIOmniboxAimPopup',
  'WebUIOmniboxFullPopup',
  'AimEnabled',
  'AvoidUnnecessaryBeforeUnloadCheckSync',
  'DestroyProfileOnBrowserClose',
  'HttpsFirstBalancedModeAutoEnable',
  'HttpsUpgrades',
  'LensOverlay',
  'MediaRouter',
  'NetworkTimeServiceQuerying',
  'OptimizationHints',
  'PaintHolding',
  'PreconnectToSearch',
  'ThirdPartyStoragePartitioning',
]

export async function signIn(page: Page, email = 'ines@quillmere.example'): Promise<void> {
  await page.goto('/sign-in')
  await page.getByLabel('Mail address').fill(email)
  await page.getByLabel('Password', { exact: true }).fill('night-flowering')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await page.waitForURL('**/cloth')
}

/** A day is typed as a person would: into the field, and on to the next. */
export async function typeDay(field: Locator, day: string): Promise<void> {
  await field.click()
  await field.fill(day)
  await field.press('Tab')
}

export async function until<T>(
  what: string,
  look: () => Promise<T | false | null | undefined>,
  withinMs = 12_000,
): Promise<T> {
  const end = Date.now() + withinMs
  for (;;) {
    const seen = await look()
    if (seen) return seen
    if (Date.now() > end) throw new Error(`It did not become true: ${what}`)
    await new Promise(done => setTimeout(done, 50))
  }
}

/** What has happened in the whole demo ends with removals on hold; the machine is busy until then. */
export const storyTold = (page: Page): Promise<unknown> =>
  until(
    'the story is told',
    async () => {
      const { items } = (await (await page.request.get('/api/waiting/brake')).json()) as { items: unknown[] }
      return items.length > 3
    },
    90_000,
  )

/** Chooses one of several by its words, in a list of the interface library, by keyboard and mouse. */
export async function choose(field: Locator, words: string): Promise<void> {
  await field.focus()
  await field.press('ArrowDown')
  await field.page().locator('.ant-select-dropdown:visible').getByTitle(words, { exact: true }).click()
}
/** The words that such a list shows as chosen. */
export const chosen = (field: Locator): Promise<string> =>
  field.locator('xpath=ancestor::*[contains(@class, "ant-select-selector")]').innerText()

/** Asks the server as the page would, signed in as it is. */
export const callFrom =
  (page: () => Page) =>
  (method: string, path: string, body?: unknown): Promise<any> =>
    page().evaluate(
      async ([how, to, json]) => {
        const answer = await fetch(`/api${to}`, {
          method: how as string,
          headers: { 'Content-Type': 'application/json' },
          ...(json ? { body: JSON.stringify(json) } : {}),
        })
        return answer.json()
      },
      [method, path, body] as const,
    )
