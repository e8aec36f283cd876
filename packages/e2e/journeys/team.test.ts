import { expect } from 'chai'
import { Secret, TOTP } from 'otpauth'
import type { Page } from 'playwright-core'
import { type App, choose, signIn, startApp } from '../support/app.ts'

/** From nothing to a team: the first person, whoever they invite, and whoever goes again. */

const PASSWORD = 'three moths at dusk'

describe('a team', function () {
  this.timeout(120_000)
  let app: App
  afterEach(() => app.close())

  async function invite(page: Page, email: string, role: string): Promise<string> {
    await page.goto('/team')
    await page.getByLabel('Mail address of whom you invite').fill(email)
    if (role !== 'Member') {
      await choose(page.getByRole('combobox', { name: 'Their role' }), role)
    }
    await page.getByRole('button', { name: 'Invite' }).click()
    return page.getByLabel('Address of the invitation').inputValue()
  }
  async function join(link: string, name: string): Promise<Page> {
    const page = await app.newPage()
    await page.goto(link)
    await page.getByLabel('Your name').fill(name)
    await page.getByLabel(/^Password/).fill(PASSWORD)
    await page.keyboard.press('Enter')
    await page.getByRole('radio', { name: 'Week', exact: true }).waitFor()
    return page
  }

  it('begins from an empty database, by an address that the server shows', async () => {
    app = await startApp({ empty: true })
    const page = await app.newPage()
    await page.goto('/')
    await page.getByRole('heading', { name: 'Nobody has begun here yet' }).waitFor()
    const begin = await app.begin()
    await page.goto(begin)
    await page.getByLabel('What is your team').fill('North Orchard')
    await page.getByLabel('Your name').fill('Mira Holt')
    await page.getByLabel('Mail address').fill('mira@orchard.example')
    await page.getByLabel(/^Password/).fill('password123')
    await page.keyboard.press('Enter')
    await page.getByText('among the first passwords anybody would try').waitFor()
    await page.getByLabel(/^Password/).fill(PASSWORD)
    await page.keyboard.press('Enter')
    await page.waitForURL('**/connections/new')
    // The secret is in no address any more, and opens nothing a second time.
    expect(page.url()).to.not.include('#')
    const late = await app.newPage()
    await late.goto(begin)
    await late.getByRole('alert').getByText('not valid, or not any more').waitFor()
    await page.getByRole('link', { name: 'Amber Loom, to the Cloth' }).click()
    await page.getByRole('link', { name: 'Connect a service' }).waitFor()
  })

  it('invites a colleague, makes a reader of them, and removes them while they look', async () => {
    app = await startApp()
    const ines = await app.newPage()
    await signIn(ines)
    const link = await invite(ines, 'rosa@quillmere.example', 'Member')
    const rosa = await join(link, 'Rosa Lind')
    await rosa.locator('[data-key]').first().waitFor()
    // The address is over, and the page says nothing of it any more.
    await ines.getByText('rosa@quillmere.example').first().waitFor()
    await ines.getByLabel('Address of the invitation').waitFor({ state: 'detached' })

    await choose(ines.getByRole('combobox', { name: 'Role of Rosa Lind' }), 'Reader')
    await ines.getByText('Rosa Lind is a reader now.').waitFor()
    // Her page begins anew as a reader's: nothing to add, nothing to drag, and an item's menu only opens it.
    await rosa.getByText('Reader', { exact: true }).waitFor()
    await rosa.locator('[data-key]').first().waitFor()
    expect(await rosa.getByRole('button', { name: 'Add', exact: true }).count()).to.equal(0)
    expect(await rosa.locator('[data-drag]').count()).to.equal(0)
    await rosa.locator('[data-key]').first().focus()
    await rosa.keyboard.press('Enter')
    await rosa.locator('.menu .choice').first().waitFor()
    expect(await rosa.locator('.menu .choice').count()).to.equal(1)
    await rosa.keyboard.press('Escape')
    await rosa.goto('/team')
    expect(await rosa.getByRole('button', { name: 'Invite' }).count()).to.equal(0)
    const refused = await rosa.request.post('/api/team/invitations', {
      data: { email: 'x@quillmere.example', role: 'coordinator' },
      headers: { Origin: app.url },
    })
    expect(refused.status()).to.equal(403)

    await rosa.goto('/cloth')
    await rosa.locator('[data-key]').first().waitFor()
    await ines
      .getByRole('row', { name: /^Rosa Lind/ })
      .getByRole('button', { name: 'Remove' })
      .click()
    await ines.getByRole('dialog').getByRole('button', { name: 'Remove' }).click()
    await ines.getByText('Rosa Lind is no longer in this workspace.').waitFor()
    // Nothing of the workspace stays on the page.
    await rosa.waitForURL('**/sign-in')
    expect(await rosa.locator('[data-key]').count()).to.equal(0)
  })

  it('keeps what somebody does in two workspaces apart', async () => {
    app = await startApp()
    const ines = await app.newPage()
    await signIn(ines)
    await ines.getByRole('button', { name: /^Account of/ }).click()
    await ines.getByRole('link', { name: 'New workspace' }).click()
    await ines.getByLabel('Name').fill('Orchard walks')
    await ines.getByRole('button', { name: 'Create' }).click()
    await ines.waitForURL('**/connections/new')
    await ines.goto('/cloth')
    await ines.getByText('Nothing is woven yet').waitFor()
    await ines.getByRole('button', { name: /^Account of/ }).click()
    await ines.getByRole('button', { name: 'Quillmere Garden' }).click()
    await ines.locator('[data-key]').first().waitFor()
  })

  it('signs in with a passkey, and not with one that was removed', async () => {
    app = await startApp()
    const page = await app.newPage()
    const devtools = await page.context().newCDPSession(page)
    await devtools.send('WebAuthn.enable')
    await devtools.send('WebAuthn.addVirtualAuthenticator', {
      options: {
        protocol: 'ctap2',
        transport: 'internal',
        hasResidentKey: true,
        hasUserVerification: true,
        isUserVerified: true,
        automaticPresenceSimulation: true,
      },
    })
    // Browsers keep passkeys for names only.
    const byName = app.url.replace('127.0.0.1', 'localhost')
    await page.goto(`${byName}/sign-in`)
    await page.getByLabel('Mail address').fill('ines@quillmere.example')
    await page.getByLabel('Password', { exact: true }).fill('night-flowering')
    await page.keyboard.press('Enter')
    await page.locator('[data-key]').first().waitFor()
    await page.goto(`${byName}/me`)
    await page.getByLabel('Name of the new passkey').fill('My laptop')
    await page.getByRole('button', { name: 'Add a passkey' }).click()
    await page.getByText('My laptop is kept.').waitFor()
    const out = async (): Promise<void> => {
      await page.getByRole('button', { name: /^Account of/ }).click()
      await page.getByRole('button', { name: 'Sign out' }).click()
      await page.getByRole('button', { name: 'Use a passkey' }).click()
    }
    await out()
    await page.locator('[data-key]').first().waitFor()
    await page.goto(`${byName}/me`)
    await page.getByText('last used').first().waitFor()
    await page.getByRole('button', { name: 'Remove' }).click()
    await page.getByText('My laptop opens nothing here any more.').waitFor()
    await out()
    await page.getByRole('alert').getByText('not known here').waitFor()
  })

  it('wants one-time codes of everybody: asked for at the door, or in the page that is open', async () => {
    app = await startApp()
    /** Sets them up, and returns what the authenticator shows in half a minute: each code counts once. */
    const setUp = async (page: Page): Promise<string> => {
      await page.getByRole('button', { name: 'Set up one-time codes' }).click()
      await page.getByAltText(/key as a picture/).waitFor()
      const key = (await page.locator('code').first().textContent())?.replace(/ /g, '') ?? ''
      const shows = new TOTP({ secret: Secret.fromBase32(key) })
      await page.getByLabel('The six digits it shows now').fill(shows.generate())
      await page.keyboard.press('Enter')
      await page.getByText('Codes are on.').waitFor()
      await page.getByRole('button', { name: 'I have kept them' }).click()
      return shows.generate({ timestamp: Date.now() + 30_000 })
    }
    const tobias = await app.newPage()
    await signIn(tobias, 'tobias@quillmere.example')
    await tobias.locator('[data-key]').first().waitFor()
    const ines = await app.newPage()
    await signIn(ines)
    await ines.goto('/me')
    const next = await setUp(ines)
    await ines.getByText(/On since/).waitFor()
    await ines.goto('/team')
    await ines.getByLabel('Everybody signs in with').click()
    await ines.getByText(/asked to set one up before anything else/).waitFor()

    await tobias.getByRole('dialog', { name: 'One more step' }).waitFor()
    await setUp(tobias)
    await tobias.getByRole('dialog', { name: 'One more step' }).waitFor({ state: 'detached' })
    await tobias.getByRole('radio', { name: 'Month' }).click()
    await tobias.locator('[data-key]').first().waitFor()

    const other = await app.newPage()
    await other.goto('/sign-in?to=/journal')
    await other.getByLabel('Mail address').fill('ines@quillmere.example')
    await other.getByLabel('Password', { exact: true }).fill('night-flowering')
    await other.getByRole('button', { name: 'Sign in' }).click()
    const field = other.getByLabel(/The six digits that your authenticator shows/)
    await field.fill('000000')
    await other.keyboard.press('Enter')
    await other.getByText(/That code is not right/).waitFor()
    // Going elsewhere leads back to the same question.
    await other.goto('/team')
    await field.fill(next)
    await other.keyboard.press('Enter')
    await other.getByRole('row', { name: /Tobias Lund/ }).waitFor()
  })
})
