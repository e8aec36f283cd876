import { join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { callFrom, signIn, startApp, storyTold, typeDay, until } from './support/app.ts'
import { arrives } from './support/invitation-mail.ts'
import { otherSide } from './support/other-side.ts'

/** Takes the pictures of docs/screenshots/: always the same Tuesday, so that they change only with the views. */

const CLOCK = '2026-11-24T11:12:00Z'
const FOLDER = join(resolve(fileURLToPath(import.meta.url), '../../..'), 'docs/screenshots')

const app = await startApp({ clock: CLOCK, size: 'whole' })
const there = otherSide(app)
const page = await app.newPage()
const take = (name: string): Promise<unknown> => page.screenshot({ path: join(FOLDER, `${name}.png`) })

await signIn(page)
await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
await storyTold(page)
// A morning's work on the other side, so that the journal and the Cloth have something to tell.
const plugs = await there.task('festival', 'Order moonflower plugs')
await there.editTask(plugs?.id ?? '', { ticked: true })
await until('it is marked', () => there.event('festival-work', '✓ Order moonflower plugs'))
const brief = await until('the brief', () => there.event('festival-work', 'Write lantern brief'))
await there.put(brief.url, brief.text.replace(/(DTEND;TZID.*)T\d+/, '$1T111500'))
await page.getByRole('group', { name: /^Write lantern brief.*09:30–11:15/ }).waitFor()
await page.getByRole('group', { name: /^Print route cards/ }).focus()
await page.keyboard.press('p')
const dialog = page.getByRole('dialog', { name: /Print route cards/ })
await typeDay(dialog.getByLabel('Day', { exact: true }), '2026-11-26')
await dialog.getByLabel('Starts').fill('12:00')
await dialog.getByRole('button', { name: 'Place' }).click()
await until('the event', () => there.event('festival-work', 'Print route cards'))
await page.reload()
await page.getByRole('group', { name: /^Print route cards.*12:00–12:30/ }).waitFor()
await page.mouse.move(640, 780)
await until('long words are broken as they should be', () =>
  page.evaluate(() => document.body.textContent.includes('\u00AD')),
)
await take('cloth')

await page
  .getByRole('group', { name: /^Festival map proof/ })
  .first()
  .focus()
await page.keyboard.press('o')
await page.getByRole('complementary').getByText('Kept in step by').waitFor()
await take('item')
await page.getByRole('complementary').getByRole('button', { name: 'Close' }).click()
await page
  .getByRole('combobox', { name: /^Add, search/ })
  .fill('Call lantern maker tomorrow 14:00 for 45 min, for Rafael, Festival list, due Friday, urgent')
await page.getByText('planned').waitFor()
await take('write-down')
await page.keyboard.press('Escape')
await page.getByRole('radio', { name: 'Month' }).click()
await page.getByRole('button', { name: /^1 Nov/ }).waitFor()
await take('cloth-month')
await page.getByRole('radio', { name: 'Day', exact: true }).click()
await page.getByRole('radio', { name: 'People' }).click()
await page.getByRole('row', { name: /^Anouk Thapa, Tuesday/ }).waitFor()
await page.getByRole('button', { name: 'Offer', exact: true }).click()
await page.getByRole('button', { name: 'among us' }).click()
const among = page.getByRole('complementary', { name: 'A time among us' })
await among.getByRole('button', { name: 'With which colleagues' }).click()
for (const name of ['Tobias Lund', 'Anouk Thapa'])
  await page.getByRole('checkbox', { name }).or(page.getByRole('menuitemcheckbox', { name })).first().click()
await page.keyboard.press('Escape')
await among.getByRole('list', { name: 'The best times' }).getByRole('button').first().click()
await among.getByRole('textbox', { name: 'What we meet about' }).fill('Lantern walk: last questions')
await page
  .getByRole('img', { name: /^A common time|^Lantern walk/ })
  .first()
  .waitFor()
await take('cloth-people')
await among.getByRole('button', { name: 'Close' }).click()
await page.getByRole('button', { name: 'Reset' }).click()

await page.goto('/connections')
await page.getByText('In step').first().waitFor()
await page
  .getByRole('region', { name: 'Autumn Visits' })
  .getByRole('button', { name: 'Last 24 hours' })
  .waitFor()
await take('connections')

await page.goto('/connections/new')
await page.getByRole('button', { name: /^Plant Register/ }).waitFor()
await page.getByRole('button', { name: /^Plant Register/ }).click()
await page.getByLabel('Address').fill(`${app.standins}/register`)
await page.getByLabel(/key/i).first().fill('register-key-anouk')
await page.getByRole('button', { name: 'Sign in and look what is there' }).click()
await page.getByText(/^\d+ of \d+ items match\.$/).waitFor()
await page.getByRole('button', { name: /^Status/ }).click()
await page.getByRole('checkbox', { name: 'to do' }).check()
await page.keyboard.press('Escape')
await page.getByText(/^[1-5] of \d+ items match\.$/).waitFor()
await take('connect')

await page.goto('/rules')
await page.getByText('Festival work').first().waitFor()
await take('rules')

await page.goto('/rules/new')
await page.getByRole('button', { name: /^Time for tasks/ }).waitFor()
await page.getByRole('button', { name: /^Time for tasks/ }).click()
const choose = async (side: string, name: string): Promise<void> => {
  await page.getByRole('button', { name: side }).click()
  await page.getByRole('menuitem', { name }).click()
}
const valve = await there.task('repairs', 'Boiler valve quote')
await there.editTask(valve?.id ?? '', { hour: '16:00' })
const tap = await there.task('repairs', 'Fix tap by gate')
await there.editTask(tap?.id ?? '', { day: '2026-11-27' })
await choose('Task list', 'Bench List · Small repairs')
await choose('Calendar', 'Garden Calendars · House repairs')
await page.getByText('1 matched').waitFor()
await page.locator('.ant-dropdown').last().waitFor({ state: 'hidden' })
await take('rule-preview')
await page.getByRole('button', { name: /^Turn on/ }).click()
await page.getByText('The rule is on.').waitFor()
await until('its event', () => there.event('house-repairs', 'Boiler valve quote'))

// Two people changed the same thing while nobody looked: the demo comes with it.
await page.goto('/rules/conflicts')
await page.getByRole('article', { name: /time$/ }).waitFor()
await page.getByRole('article', { name: /title$/ }).waitFor()
await take('conflicts')

await page.goto('/journal')
await page.getByText('Print route cards').first().waitFor()
await take('journal')

await page.goto('/team')
await page.getByLabel('Mail address of whom you invite').fill('rosa@quillmere.example')
await page.getByRole('button', { name: 'Invite' }).click()
// Its secret is another each time.
await page.getByLabel('Address of the invitation').evaluate(field => {
  ;(field as HTMLInputElement).value = `${location.origin}/join#4f1c…`
})
await page.mouse.move(640, 780)
await take('team')

await page.goto('/team/sharing')
await page.getByRole('gridcell', { name: /^House repairs, Everybody/ }).click()
await page.keyboard.press('3')
await page.getByText(/titles → everything/).waitFor()
await take('sharing')

await page.goto('/day')
await page.getByText(/^Tomorrow: /).waitFor()
await page.getByText(/Too much by|It fits/).waitFor()
await take('day')
await page.goto('/time')
await page.getByRole('button', { name: 'Count it so in drafts' }).first().waitFor()
await page.getByText('since 29 Sep').waitFor()
await take('time-report')

// The week after, before it begins.
await page.goto('/cloth?prepare')
const preparing = page.getByRole('complementary', { name: 'Prepare the week' })
await preparing.getByRole('button', { name: 'The week after' }).click()
await preparing.getByText('Prepare 30 Nov – 6 Dec').waitFor()
await preparing.getByText(/\d+ wait, /).waitFor()
await page.getByRole('heading', { name: /^30 Nov/ }).waitFor()
await page.mouse.move(640, 780)
await take('prepare')
await preparing.getByRole('button', { name: 'Close' }).click()

// A week of hers: work windows for two kinds of work, lunch, and what is left of the time.
const window = (id: string, name: string, weekdays: number[], hours: [number, number], words: string[]) => ({
  id,
  name,
  weekdays,
  start: hours[0],
  end: hours[1],
  everyWeeks: 1,
  from: '2026-11-23',
  until: null,
  zone: 'Europe/Dublin',
  exceptions: {},
  onDaysOff: false,
  othersToo: true,
  spills: true,
  filter: [{ field: 'words', of: words, without: false }],
})
await page.evaluate(
  async windows => {
    const { version, planning } = await (await fetch('/api/planning')).json()
    const lunch = {
      id: 'lunch',
      name: 'Lunch',
      timesAWeek: 5,
      shortest: 30,
      longest: 45,
      within: { start: 690, end: 840 },
      importance: 80,
    }
    const json = { version, planning: { ...planning, windows, regulars: [lunch] } }
    const headers = { 'Content-Type': 'application/json' }
    await fetch('/api/planning', { method: 'PUT', headers, body: JSON.stringify(json) })
  },
  [
    window('bench', 'Bench hours', [1, 2, 4], [510, 660], ['vent', 'tap', 'boiler', 'gutter', 'sign']),
    window('desk', 'Writing', [1, 3, 5], [840, 960], ['brief', 'posters', 'proof', 'labels']),
  ],
)
await page.goto('/cloth?at=2026-11-30&draft=fortnight')
const draft = page.getByRole('complementary', { name: 'Draft' })
await draft.getByText(/^\d+ placed/).waitFor()
await draft.getByRole('progressbar').waitFor({ state: 'detached' })
await draft.locator('.what').nth(1).click()
await draft.getByText(/Why not earlier|first free time/).waitFor()
await take('draft')
await draft.getByRole('button', { name: 'Discard' }).click()

// What a guest sees of an offer, far from the garden.
const at = (day: number, clock: string): number => Date.parse(`2026-11-${day}T${clock}:00Z`)
const spans = [
  { fromMs: at(25, '09:00'), toMs: at(25, '10:45') },
  { fromMs: at(25, '15:30'), toMs: at(25, '18:00') },
  { fromMs: at(26, '12:30'), toMs: at(26, '17:30') },
  { fromMs: at(27, '13:00'), toMs: at(27, '16:30') },
]
const offered = await page.evaluate(async spans => {
  const { id } = await (await fetch('/api/me')).json()
  const terms = {
    title: 'Lanterns for the night walk',
    lengths: [45, 90],
    how: 'any',
    before: 0,
    after: 0,
    noticeHours: 4,
    mostPerDay: null,
    location: 'Tarn Lane 4',
    callLink: 'https://call.tarnlane.example/lanterns',
    questions: [],
    zone: 'Europe/Dublin',
    when: { kind: 'spans', spans },
  }
  const headers = { 'Content-Type': 'application/json' }
  const body = JSON.stringify({ terms, hosts: [id], into: null })
  return (await (await fetch('/api/offers', { method: 'POST', headers, body })).json()) as { link: string }
}, spans)
const guest = await app.newPage()
await guest.goto(new URL(offered.link).pathname + new URL(offered.link).hash)
await guest.getByLabel('Time zone').selectOption('Asia/Kathmandu')
await guest.getByText(/5 h 45 ahead of Dublin/).waitFor()
await guest.locator('button.run').last().click()
await guest.getByLabel('Name').fill('Pia Rangan')
await guest.getByLabel('Mail address').fill('pia@tarnlane.example')
await guest.mouse.move(1200, 20)
await guest.screenshot({ path: join(FOLDER, 'offer.png') })

await page.emulateMedia({ colorScheme: 'dark' })
await page.evaluate(() => localStorage.setItem('loom-theme', 'peat'))
const call = callFrom(() => page)
await call('POST', '/doors', { kind: 'mail' })
const to = (await call('GET', '/doors')).doors.find((d: { kind: string }) => d.kind === 'mail').address
const invited = (uid: string, day: number, clock: string, more: string[]): string[] => [
  `UID:${uid}`,
  `DTSTART:202611${day}T${clock}00Z`,
  'DURATION:PT1H',
  'ORGANIZER;CN=Orla Fenn:mailto:orla@trustees.example',
  'ATTENDEE:mailto:ines@quillmere.example',
  'ATTENDEE;CN=Bram Oduya:mailto:bram@trustees.example',
  ...more,
]
for (const [title, lines] of [
  [
    'Budget for the spring',
    invited('p1', 26, '1000', ['LOCATION:Tarn House, upper room', 'DESCRIPTION:Bring the figures.']),
  ],
  ['Walk round the north beds', invited('p2', 27, '1630', ['RRULE:FREQ=WEEKLY;COUNT=4'])],
  ['Lantern supplier', invited('p3', 27, '0900', [])],
] as const)
  await arrives(app, { method: 'REQUEST', title, lines: [...lines], to })
await page.goto('/invitations')
await page.getByRole('article', { name: 'Lantern supplier' }).getByRole('button', { name: 'Perhaps' }).click()
await page.getByRole('heading', { name: 'Nothing to answer' }).waitFor()
await page.getByRole('article', { name: 'Walk round' }).getByText('Free in your plan').waitFor()
await page.mouse.move(900, 700)
await take('invitations')
await app.close()
