import { expect } from 'chai'
import type { Page } from 'playwright-core'
import { type App, choose, signIn, startApp, until, weekDay } from '../support/app.ts'
import { otherSide } from '../support/other-side.ts'

/** Each their own sight of one Cloth: a coordinator who shares, and a colleague who has the page open meanwhile. */

describe('sharing', function () {
  this.timeout(120_000)
  let app: App
  before(async () => {
    app = await startApp()
  })
  after(() => app.close())

  it('closes a list while a colleague looks at it, to busy time, and takes that back', async () => {
    const ines = await app.newPage()
    await signIn(ines)
    const tobias = await app.newPage()
    await signIn(tobias, 'tobias@quillmere.example')
    const day = weekDay(2)
    const text = (uid: string, title: string, hour: string): string =>
      [
        'BEGIN:VCALENDAR',
        'VERSION:2.0',
        'BEGIN:VEVENT',
        `UID:${uid}`,
        'DTSTAMP:20260101T000000Z',
        `DTSTART;TZID=Europe/Dublin:${day.replaceAll('-', '')}T${hour}0000`,
        'DURATION:PT2H',
        `SUMMARY:${title}`,
        'END:VEVENT',
        'END:VCALENDAR',
        '',
      ].join('\r\n')
    await otherSide(app).put(
      `${app.standins}/garden/dav/calendars/ines/garden-team/sealed.ics`,
      text('sealed', 'Sealed minutes', '13'),
    )
    const minutes = tobias.getByRole('group', { name: /^Sealed minutes/ }).first()
    await minutes.waitFor()
    // By keyboard alone: to the cell, what it shall be, and saved after it is counted.
    await ines.goto('/team')
    await ines.getByRole('link', { name: 'Who sees what' }).click()
    const cell = ines.getByRole('gridcell', { name: /^Garden team, Everybody: may change/ })
    await cell.click()
    await ines.keyboard.press('1')
    await ines.getByText(/may change → only busy/).waitFor()
    await ines.getByRole('button', { name: 'Save' }).focus()
    await ines.keyboard.press('Enter')
    const began = Date.now()
    await minutes.waitFor({ state: 'detached' })
    expect(Date.now() - began).to.be.below(3_000)
    const busy = tobias.getByRole('group', { name: /^Busy: Ines/ }).first()
    await busy.waitFor()
    await busy.focus()
    await tobias.keyboard.press('Enter')
    await tobias.getByText('Only that this time is taken is shared with you.').waitFor()
    // Nothing can be done with it but to ask for more.
    expect(await tobias.locator('.menu .choice').allTextContents()).to.deep.equal(['Ask to see more…'])
    await tobias.keyboard.press('Escape')
    await tobias.keyboard.press('/')
    expect(await tobias.content()).to.not.include('Sealed minutes')
    await ines.getByRole('gridcell', { name: /^Garden team, Tobias Lund: only busy, as everybody/ }).waitFor()
    await ines.getByRole('button', { name: 'Undo' }).click()
    await minutes.waitFor()
    await ines.getByRole('link', { name: 'Activity' }).click()
    await ines.getByText('shared Garden team with everybody: only busy, before may change').waitFor()
    await Promise.all([ines.close(), tobias.close()])
  })

  it('passes a list on: a colleague shows it to another, as much as they see', async () => {
    const [ines, tobias] = [await app.newPage(), await app.newPage()]
    await signIn(ines)
    await signIn(tobias, 'tobias@quillmere.example')
    await ines.goto('/team/sharing')
    // By keys: nothing for everybody, titles for Tobias; and by the sentence, that he may pass it on.
    await ines.getByRole('gridcell', { name: /^Teaching, Everybody/ }).click()
    await ines.keyboard.press('0')
    await ines.getByRole('gridcell', { name: /^Teaching, Tobias Lund/ }).click()
    await ines.keyboard.press('2')
    await ines.getByRole('button', { name: /^Whether they show it to others/ }).click()
    await ines.getByText('may pass it on', { exact: true }).click()
    await ines.getByText('may show it to others').waitFor()
    await ines.getByRole('button', { name: 'Save' }).click()
    await ines.getByText('2 places shared as you said.').waitFor()

    await tobias.goto('/team/sharing')
    await tobias.getByText('passed on to you').waitFor()
    const anouk = tobias.getByRole('gridcell', { name: /^Teaching, Anouk Thapa: nothing/ })
    await anouk.click()
    // What he does not see himself, he cannot show.
    await tobias.keyboard.press('3')
    await tobias.getByRole('alert').getByText('as much as you see').waitFor()
    await tobias.keyboard.press('2')
    await tobias.getByText('nothing → titles').waitFor()
    await tobias.getByRole('button', { name: 'Save' }).click()
    await tobias.getByRole('gridcell', { name: /^Teaching, Anouk Thapa: titles/ }).waitFor()
    await ines.getByRole('gridcell', { name: /^Teaching, Anouk Thapa: titles, by a word/ }).waitFor()
    await tobias.getByRole('button', { name: 'Undo' }).click()
    await anouk.waitFor()
    await ines.getByRole('button', { name: 'Undo' }).click()
    await tobias.getByText('passed on to you').waitFor({ state: 'detached' })
    await Promise.all([ines.close(), tobias.close()])
  })

  it('shows some lists to a guest, on a telephone, until that is ended', async () => {
    const ines = await app.newPage()
    await signIn(ines)
    await ines.goto('/team/sharing')
    const links = ines.locator('section', { has: ines.getByRole('heading', { name: 'Links for guests' }) })
    await links.getByLabel('Whom it is for').fill('The carpenters')
    await links.getByRole('button', { name: /^Lists of the link/ }).click()
    await links.getByRole('checkbox', { name: /Garden team/ }).check()
    await ines.keyboard.press('Escape')
    await links.getByRole('button', { name: 'Make a link' }).click()
    const address = await links.getByLabel('Address for the guest').inputValue()
    const guest = await app.newPage({ width: 360, height: 740 })
    await guest.goto(address)
    await guest.getByRole('heading', { name: 'Quillmere Garden' }).waitFor()
    await guest.getByText(/shown by Ines Varga, to look at/).waitFor()
    if (!(await guest.getByText('Sealed minutes').isVisible())) {
      // On a Thursday or later, the day of this week's is over.
      await guest
        .getByText(/^(Monday|Tuesday|Wednesday|Thursday|Friday|Saturday|Sunday)/)
        .first()
        .waitFor()
    }
    expect(await guest.getByText('Festival map proof').count()).to.equal(0)
    await guest.getByRole('button', { name: 'Next week' }).press('Enter')
    await guest.getByText('Morning walk-round').first().waitFor()
    // The same secret opens what is now and next, for a screen on a wall.
    const wall = await app.newPage()
    await wall.goto(address.replace('/guest#', '/wall#'))
    await wall.getByRole('heading', { name: 'Quillmere Garden' }).waitFor()
    await wall.locator('section').first().waitFor()
    expect(await wall.getByText('Not reached').count()).to.equal(0)
    expect(await guest.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).to.equal(
      true,
    )
    // Kept and opened again, it is still there; ended, nothing of it is.
    await guest.reload()
    await guest.getByRole('heading', { name: 'Quillmere Garden' }).waitFor()
    // The link is a column like everybody's: by a key, it shows less.
    await ines.getByRole('gridcell', { name: /^Garden team, The carpenters: titles/ }).click()
    await ines.keyboard.press('1')
    await ines.getByText('Whoever has “The carpenters”').waitFor()
    await ines.getByRole('button', { name: 'Save' }).click()
    await ines.getByText('Shared as you said.').waitFor()
    await guest.reload()
    await guest.getByRole('heading', { name: 'Quillmere Garden' }).waitFor()
    await guest.getByRole('button', { name: 'Next week' }).press('Enter')
    await guest.getByText('Busy').first().waitFor()
    expect(await guest.getByText('Morning walk-round').count()).to.equal(0)
    await links.getByText('only busy of Garden team').waitFor()
    await links.getByRole('button', { name: 'End the address for The carpenters' }).click()
    await ines.getByText('The address for The carpenters opens nothing any more.').waitFor()
    await guest.reload()
    await guest.getByRole('alert').getByText('not valid, or not any more').waitFor()
    expect(await guest.content()).to.not.include('Quillmere')
    await Promise.all([ines.close(), guest.close()])
  })

  it('gives a calendar program what is planned, shown before there is an address, until that is ended', async () => {
    const ines = await app.newPage()
    await signIn(ines)
    await ines.goto('/cloth')
    await ines.getByRole('button', { name: 'Saved views' }).press('Enter')
    await ines.getByRole('button', { name: 'For calendar programs…' }).press('Enter')
    const dialog = ines.getByRole('dialog', { name: 'An address for calendar programs' })
    const told = dialog.getByRole('region', { name: 'What a reader is told' })
    await told.getByText('Morning walk-round').first().waitFor()
    const say = async (words: string): Promise<void> => {
      await dialog.getByRole('button', { name: 'What it tells' }).press('Enter')
      await ines.getByRole('menuitemradio', { name: words }).press('Enter')
    }
    await say('only when')
    await told.getByText('taken').first().waitFor()
    expect(await told.getByText('Morning walk-round').count()).to.equal(0)
    await say('what is planned')
    await told.getByText('Morning walk-round').first().waitFor()
    await dialog.getByLabel('Whom it is for').fill('Kitchen screen')
    await ines.keyboard.press('Enter')
    const address = await dialog.getByLabel('Address for calendar programs').inputValue()
    const text = async (): Promise<string> => (await fetch(address)).text()
    expect(await text())
      .to.match(/^BEGIN:VCALENDAR/)
      .and.match(/SUMMARY:Morning walk-round/)
    await ines.goto('/team/sharing')
    await ines.getByText('read by calendar programs').waitFor()
    await ines.getByRole('button', { name: 'End the address for Kitchen screen' }).click()
    await ines.getByText('The address for Kitchen screen opens nothing any more.').waitFor()
    expect((await fetch(address)).status).to.equal(404)
    await ines.close()
  })

  it('keeps one thing private, and shows the Cloth as a colleague sees it', async () => {
    const ines = await app.newPage()
    await signIn(ines)
    const mine = ines.getByRole('group', { name: /^Sealed minutes/ }).first()
    await mine.focus()
    await ines.keyboard.press('o')
    await ines.getByRole('button', { name: 'keep it private' }).click()
    await ines.getByText('see only that the time is taken').waitFor()
    await ines.keyboard.press('Escape')
    await ines.goto('/team')
    await ines.getByRole('row', { name: /Anouk/ }).getByRole('button', { name: 'See as' }).click()
    await ines.getByText('As Anouk Thapa sees it').waitFor()
    await mine.waitFor({ state: 'detached' })
    await ines
      .getByRole('group', { name: /^Busy: Ines/ })
      .first()
      .waitFor()
    await until('nothing can be dragged', async () => (await ines.locator('[data-drag]').count()) === 0)
    await ines.getByRole('button', { name: 'Back to my own' }).click()
    await mine.waitFor()
    await ines.close()
  })

  it('asks and accepts, talks about it, sees who is here, and is told of the other’s move', async () => {
    const ines = await app.newPage()
    await signIn(ines)
    const call = (method: string, path: string, body?: object): Promise<any> =>
      ines.evaluate(
        async ([how, where, json]) => {
          const headers = { 'Content-Type': 'application/json' }
          const given = await fetch(`/api${where}`, { method: how, headers, ...(json && { body: json }) })
          return given.json()
        },
        [method, path, body && JSON.stringify(body)] as const,
      )
    const { lists } = await call('GET', '/sharing')
    const intake = lists.find((l: any) => l.own && l.isMine).id
    const open = (level: string) =>
      call('PUT', '/sharing', { changes: [{ list: intake, to: { kind: 'everybody' }, level }] })
    await open('change')
    const start = { kind: 'zoned', local: `${weekDay(3)}T15:00:00`, zone: 'Europe/Dublin' }
    await call('POST', '/cloth/make', { what: 'task', title: 'Mend a lantern', start, into: null, for: null })

    // Whoever has the same week open is named in the band.
    const tobias = await app.newPage()
    await signIn(tobias, 'tobias@quillmere.example')
    await tobias
      .getByTitle(/Ines Varga/)
      .first()
      .waitFor()

    // Both move it, and the page of Ines has not heard of the first move.
    const late = await app.newPage()
    await late.route('**/api/live*', route => route.abort())
    await signIn(late)
    const lantern = (page: Page) => page.getByRole('group', { name: /^Mend a lantern/ }).first()
    await lantern(late).waitFor()
    await lantern(tobias).focus()
    await tobias.keyboard.press('ArrowRight')
    await tobias
      .getByRole('group', { name: /^Mend a lantern.*15:15/ })
      .first()
      .waitFor()
    await lantern(late).focus()
    await late.keyboard.press('ArrowLeft')
    await late.getByText(/Meanwhile Tobias Lund had moved it.*15:15/).waitFor()
    await late.close()

    // Whoever may only look asks, and whoever may accepts, by keyboard.
    await open('title')
    await tobias.reload()
    await lantern(tobias).focus()
    await tobias.keyboard.press('Enter')
    await tobias.getByRole('button', { name: /^Ask that it be given to/ }).click()
    await tobias.getByRole('dialog').getByRole('button', { name: 'Anouk Thapa' }).click()
    await tobias.getByText(/asked/i).first().waitFor()
    await ines.getByRole('link', { name: /^Team.*1/ }).click()
    await ines.getByRole('link', { name: /^Requests/ }).click()
    await ines.getByText('asks that “Mend a lantern” be given to Anouk Thapa').waitFor()
    await ines.getByRole('button', { name: 'Accept' }).focus()
    await ines.keyboard.press('Enter')
    await ines.getByText(/^Accepted/).waitFor()
    await tobias.goto('/team/requests')
    await tobias
      .getByText(/accepted/)
      .first()
      .waitFor()

    // Said in the drawer, read among the activity, and from there in the drawer again.
    await open('everything')
    await tobias.goto('/cloth')
    await lantern(tobias).focus()
    await tobias.keyboard.press('o')
    const box = tobias.getByRole('textbox', { name: 'Comment' })
    await box.fill('Which glass, ')
    await box.pressSequentially('@Ines')
    await tobias.locator('.ant-mentions-dropdown').getByText('Ines Varga').waitFor()
    await tobias.keyboard.press('Enter')
    await tobias.keyboard.press('Control+Enter')
    await tobias.getByRole('region', { name: 'Comments' }).getByText('@Ines Varga').waitFor()
    await ines.getByRole('link', { name: 'Activity' }).click()
    await ines.getByRole('listitem').filter({ hasText: 'Which glass' }).getByRole('link').click()
    await ines.getByRole('region', { name: 'Comments' }).getByText('Which glass').waitFor()
    await Promise.all([ines.close(), tobias.close()])
  })

  it('saves a view for one colleague, who looks by it and saves what they change as their own', async () => {
    const ines = await app.newPage()
    await signIn(ines)
    await ines.getByRole('radio', { name: 'Month' }).click()
    await ines.getByRole('button', { name: /^Saved views/ }).click()
    await ines.getByRole('button', { name: 'Save this as a view…' }).click()
    const naming = ines.getByRole('dialog', { name: 'Save as a view' })
    await naming.getByLabel('Name of the view').fill('Who is where')
    await choose(naming.getByLabel('Whom it is for'), 'some of us')
    await naming.getByRole('button', { name: /^People and groups/ }).click()
    await ines.getByRole('checkbox', { name: 'Tobias Lund' }).check()
    await ines.keyboard.press('Escape')
    await naming.getByRole('button', { name: 'Save', exact: true }).click()
    await ines.getByRole('button', { name: 'Saved views: Who is where' }).waitFor()

    const tobias = await app.newPage()
    await signIn(tobias, 'tobias@quillmere.example')
    await tobias.getByRole('button', { name: /^Saved views/ }).click()
    await tobias
      .getByRole('button', { name: /^Who is where/ })
      .first()
      .click()
    await tobias.getByRole('radio', { name: 'Month', checked: true }).waitFor()
    await tobias.getByRole('radio', { name: 'Week', exact: true }).click()
    await tobias.getByRole('button', { name: 'save as my own…' }).click()
    expect(await tobias.getByRole('button', { name: 'save', exact: true }).count()).to.equal(0)
    const his = tobias.getByRole('dialog', { name: 'Save as a view' })
    await his.getByLabel('Name of the view').fill('My week')
    await his.getByRole('button', { name: 'Save', exact: true }).click()
    await tobias.getByRole('button', { name: 'Saved views: My week' }).waitFor()

    // Taken away again, it is gone from his page at once.
    await ines.getByRole('button', { name: /^Saved views/ }).click()
    await ines.getByRole('button', { name: 'Share or rename Who is where' }).click()
    const sharing = ines.getByRole('dialog', { name: 'Who is where' })
    await choose(sharing.getByLabel('Whom it is for'), 'only me')
    await sharing.getByRole('button', { name: 'Save', exact: true }).click()
    await tobias.getByRole('button', { name: /^Saved views/ }).click()
    await tobias.getByText('Who is where').waitFor({ state: 'detached' })
    await Promise.all([ines.close(), tobias.close()])
  })

  it('opens by a view what it shows, to one colleague, and closes it again', async () => {
    const [ines, tobias] = [await app.newPage(), await app.newPage()]
    await signIn(ines)
    await signIn(tobias, 'tobias@quillmere.example')
    await ines.goto('/team/sharing')
    await ines.getByRole('gridcell', { name: /^Garden team, Everybody/ }).click()
    await ines.keyboard.press('0')
    await ines.getByText(/may change → nothing/).waitFor()
    await ines.getByRole('button', { name: 'Save' }).click()
    await ines.getByText('Shared as you said.').waitFor()
    const walk = tobias.getByRole('group', { name: /^Morning walk-round/ }).first()
    await tobias.getByRole('button', { name: /^Saved views/ }).waitFor()
    await walk.waitFor({ state: 'detached' })

    await ines.goto('/')
    await ines.getByRole('button', { name: /^Saved views/ }).click()
    await ines.getByRole('button', { name: 'Save this as a view…' }).click()
    const naming = ines.getByRole('dialog', { name: 'Save as a view' })
    await naming.getByLabel('Name of the view').fill('For Tobias')
    await choose(naming.getByLabel('Whom it is for'), 'some of us')
    await naming.getByRole('button', { name: /^People and groups/ }).click()
    await ines.getByRole('checkbox', { name: 'Tobias Lund' }).check()
    await ines.keyboard.press('Escape')
    await choose(naming.getByLabel('What comes into sight by it'), 'titles as well')
    await naming.getByText('of lists and calendars that are yours').waitFor()
    await naming.getByRole('button', { name: 'Save', exact: true }).click()
    await walk.waitFor()
    await ines.goto('/team/sharing')
    await ines.getByRole('gridcell', { name: /^Garden team, Tobias Lund/ }).click()
    await ines.getByText('The view “For Tobias” opens titles of what it shows to Tobias Lund.').waitFor()
    await ines.getByRole('link', { name: 'Activity' }).click()
    await ines.getByText('opened titles of what the view For Tobias shows to Tobias Lund').waitFor()

    await ines.goto('/')
    await ines.getByRole('button', { name: /^Saved views/ }).click()
    await ines.getByRole('button', { name: 'Share or rename For Tobias' }).click()
    const sharing = ines.getByRole('dialog', { name: 'For Tobias' })
    await choose(sharing.getByLabel('What comes into sight by it'), 'what they see anyway')
    await sharing.getByRole('button', { name: 'Save', exact: true }).click()
    await walk.waitFor({ state: 'detached' })
    // However much happened since, it is found by its words.
    await app.sql(
      `INSERT INTO sharing_log (workspace_id, at, member_id, collection_id, body)
       SELECT m.workspace_id, (SELECT MAX(at) FROM sharing_log) + seq, m.id, NULL,
         CONCAT('{"do":"group","name":"Passing ', seq, '","members":null}')
       FROM members m JOIN seq_1_to_130 WHERE m.name = 'Ines Varga'`,
    )
    await ines.goto('/team/activity')
    await ines.getByText('dissolved the group Passing 130').waitFor()
    expect(await ines.getByText('what the view For Tobias opened').count()).to.equal(0)
    await ines.getByRole('textbox', { name: 'Look through it' }).fill('For Tobias')
    await ines.getByText('closed to Tobias Lund what the view For Tobias opened').waitFor()
    await ines.getByRole('textbox', { name: 'Look through it' }).fill('')
    await ines.getByText('dissolved the group Passing 130').waitFor()
    await Promise.all([ines.close(), tobias.close()])
  })
})
