import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, signIn, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** What waits for a person: a conflict decided, removals held and put back, a change taken back, a rule changed. */
describe('deciding what rules ask', function () {
  this.timeout(60_000)
  let app: App
  let page: Page
  let there: ReturnType<typeof otherSide>

  before(async () => {
    app = await startApp()
    there = otherSide(app)
    page = await app.newPage()
    await signIn(page)
    await until('the first pass is through', async () => (await there.events('festival-work')).length >= 5)
  })
  after(() => app.close())

  const sheet = async (): Promise<void> => {
    await page.goto('/rules')
    await page.getByRole('link', { name: /Bench List · Festival/ }).click()
    await page.getByRole('region', { name: 'What this will do now' }).getByText('0 made').waitFor()
  }
  /** Both sides change the title while nobody looks. */
  async function bothRename(from: string, list: string, calendar: string): Promise<void> {
    const task = await until('the task', () => there.task('festival', from))
    const event = await until('the event', () => there.event('festival-work', from))
    await app.sql('UPDATE connections SET paused = 1')
    await there.editTask(task.id, { text: list })
    await there.put(event.url, event.text.replace(`SUMMARY:${from}`, `SUMMARY:${calendar}`))
    await app.sql(
      'UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.paused = 0, l.next_look_at = 0',
    )
  }

  it('changes a sentence of a rule by keyboard, sees what it would do, and is asked before it is lost', async () => {
    await sheet()
    await page.getByText('Tasks of Festival share their events in Festival work').waitFor()
    await page.getByRole('button', { name: /^When both sides change the same/ }).focus()
    await page.keyboard.press('Enter')
    await page.getByRole('menuitemradio', { name: 'ask me' }).click()
    await page.getByRole('link', { name: 'Connections' }).click()
    await page.getByText('Leave without saving?').waitFor()
    await page.getByRole('button', { name: 'Stay here' }).click()
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByText('The rule is saved.').waitFor()
    await page.getByRole('button', { name: 'More for this rule' }).click()
    await page.getByRole('menuitem', { name: 'Its versions' }).click()
    await page.getByRole('region', { name: 'Versions' }).getByText('conflict newest → ask').waitFor()
  })

  it('decides a conflict by taking one side, and another by writing it anew', async () => {
    await bothRename('Label night beds', 'Label the night beds', 'Label night beds 1 to 6')
    await page.goto('/rules/conflicts')
    const one = page.getByRole('article', { name: /title$/ })
    await one
      .getByRole('region', { name: /Festival work/ })
      .getByText('Label night beds 1 to 6')
      .waitFor()
    await one
      .getByRole('region', { name: /Bench List/ })
      .getByRole('button', { name: 'Take this one' })
      .click()
    await until('the event is told', () => there.event('festival-work', 'Label the night beds'))
    await page.getByText('Nothing waits for you').waitFor()

    await bothRename('Write lantern brief', 'Write the lantern brief', 'Write lantern brief for Orla')
    await page.getByRole('button', { name: 'Merge by hand' }).click()
    const text = page.getByLabel('title, written anew')
    expect(await text.inputValue(), 'what either changed is proposed').to.equal(
      'Write the lantern brief for Orla',
    )
    await text.press('Enter')
    await until('both are told', () => there.event('festival-work', 'Write the lantern brief for Orla'))
    await until('the task as well', () => there.task('festival', 'Write the lantern brief for Orla'))
  })

  it('takes a change back from the journal, after saying what that does', async () => {
    const task = await there.task('festival', 'Order moonflower plugs')
    await there.editTask(task?.id ?? '', { text: 'Order plugs' })
    await until('the event is renamed', () => there.event('festival-work', 'Order plugs'))
    await page.goto('/journal?words=plugs')
    await page.getByRole('button', { name: 'Undo: Order plugs' }).first().click()
    const dialog = page.getByRole('dialog', { name: 'Undo' })
    await dialog.getByText('title: Order plugs → Order moonflower plugs').waitFor()
    await dialog.getByRole('button', { name: 'Undo 1' }).click()
    await until('it says so again', () => there.event('festival-work', 'Order moonflower plugs'))
    await page.getByText('undone since').first().waitFor()
    expect((await there.task('festival', 'Order plugs'))?.id, 'the list keeps its own').to.equal(task?.id)
  })

  it('stops a landslide, says why, and puts back what was missing', async () => {
    for (const n of [1, 2, 3, 4, 5, 6])
      await there.addTask('festival', { text: `Lantern ${n}`, day: weekDay(3), hour: `1${n}:00` })
    const lanterns = async () =>
      (await there.events('festival-work')).filter(e => e.summary.startsWith('Lantern '))
    // One of them is the delivery, which is older than the rule.
    await until('all have events', async () => (await lanterns()).length === 7)
    await app.sql('UPDATE connections SET paused = 1')
    for (const n of [1, 2, 3, 4, 5, 6])
      await there.removeTask((await there.task('festival', `Lantern ${n}`))?.id ?? '')
    await app.sql(
      'UPDATE connections c JOIN look_times l ON l.connection_id = c.id SET c.paused = 0, l.next_look_at = 0',
    )
    await page.goto('/rules/brake')
    const held = page.getByRole('region', { name: /Festival work: \d on hold/ })
    await held.getByText('the task was deleted').first().waitFor()
    const count = await until(
      'it rests',
      async () => {
        const [events, items] = [(await lanterns()).length - 1, await held.getByRole('listitem').count()]
        return events === items && items
      },
      30_000,
    )
    expect(count).to.be.greaterThan(2)
    await held.getByRole('button', { name: `Keep and restore ${count}` }).click()
    await page.getByText('Nothing on hold').waitFor()
    await until('they are there again', async () => {
      const tasks = await Promise.all([1, 2, 3, 4, 5, 6].map(n => there.task('festival', `Lantern ${n}`)))
      return tasks.filter(Boolean).length === count
    })
    expect(await lanterns(), 'nothing is doubled').to.have.length(count + 1)
  })

  it('shows the chains, and leads from them to each rule', async () => {
    await page.goto('/rules/chains')
    const told = page.getByRole('list', { name: /went over them today/ })
    await told.getByText(/to Festival work: \d+ today/).waitFor()
    await told.getByRole('link', { name: /^Festival/ }).click()
    await page.getByRole('heading', { name: 'Festival ⇄ Festival work' }).waitFor()
  })
})
