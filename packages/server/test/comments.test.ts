import { expect } from 'chai'
import { commentLetter, CommentLetters } from '../src/team/comment-letters.ts'
import { Client, startWorld, until, weekDay, type World } from './support/world.ts'

/** What is said about items: for those who see all of it, kept here, told by mail to those who are named. */
describe('comments', function () {
  this.timeout(60_000)
  let w: World
  let tobias: Client
  let anouk: Client
  let key: string
  let ideas: string

  before(async () => {
    w = await startWorld()
    tobias = new Client(w.client.base)
    anouk = new Client(w.client.base)
    await tobias.signIn('tobias@quillmere.example')
    await anouk.signIn('anouk@quillmere.example')
    // In no rule: what stands elsewhere as well is also seen by whoever sees it there.
    await w.bench.add('someday', { text: 'Gild the sign', day: weekDay(1), hour: '10:00' })
    const { body } = await w.client.call('GET', '/sharing')
    ideas = body.lists.find((l: any) => l.name === 'Ideas').id
    const found = await until('it is here', async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.find(
        (i: any) => i.title === 'Gild the sign' && !i.pending,
      ),
    )
    key = found.key
  })
  after(() => w.close())

  const say = (who: Client, text: string, on = key) => who.call('POST', `/comments/on/${on}`, { text })
  const said = async (who: Client, on = key) => (await who.call('GET', `/comments/on/${on}`)).body
  const texts = async (who: Client): Promise<string[]> =>
    (await said(who)).comments?.map((c: any) => c.text) ?? []
  const share = (level: string, more: object = { kind: 'everybody' }) =>
    w.client.call('PUT', '/sharing', { changes: [{ list: ideas, to: more, level }] })
  const letters = async () => {
    const told = (await (await fetch(`${w.standins}/mailbox/messages`)).json()) as { letters: any[] }
    return told.letters.filter(l => /names? you/.test(l.subject))
  }

  it('are read and answered by those who see all of it', async () => {
    const first = await say(w.client, 'Which gold, @Tobias Lund?')
    expect(first.status).to.equal(201)
    expect((await say(tobias, '  ')).status, 'nothing said').to.equal(400)
    expect((await say(tobias, 'The warm one.')).status).to.equal(201)
    const { comments, mayName } = await said(tobias)
    expect(comments.map((c: any) => [c.who, c.text, c.named, c.isMine])).to.deep.equal([
      ['Ines Varga', 'Which gold, @Tobias Lund?', ['Tobias Lund'], false],
      ['Tobias Lund', 'The warm one.', [], true],
    ])
    expect(mayName.map((p: any) => p.name))
      .to.include('Anouk Thapa')
      .and.not.include('Tobias Lund')
    // One's own is said otherwise and taken back; others' only by whoever looks after the list.
    const [hers, his] = comments.map((c: any) => c.id)
    expect((await tobias.call('PUT', `/comments/${hers}`, { text: 'No' })).status).to.equal(404)
    expect((await tobias.call('DELETE', `/comments/${hers}`)).status).to.equal(404)
    expect((await tobias.call('PUT', `/comments/${his}`, { text: 'The red one.' })).status).to.equal(200)
    expect(await texts(w.client)).to.deep.equal(['Which gold, @Tobias Lund?', 'The red one.'])
    expect((await said(w.client)).comments.map((c: any) => c.mayRemove)).to.deep.equal([true, true])
    const found = await w.client.call('GET', '/comments?q=RED%20one')
    expect(found.body.lines.map((l: any) => [l.title, l.body])).to.deep.equal([
      ['Gild the sign', 'The red one.'],
    ])
    expect((await w.client.call('GET', '/comments?q=%25')).body.lines, 'no pattern').to.deep.equal([])
  })

  it('go to nobody who sees less, by any way, and name nobody who could not read them', async () => {
    await share('title')
    expect((await tobias.call('GET', `/comments/on/${key}`)).status).to.equal(404)
    expect((await say(tobias, 'Hello?')).status).to.equal(404)
    expect((await tobias.call('GET', '/comments')).body.lines).to.deep.equal([])
    const mine = (await said(w.client)).comments[1].id
    expect((await tobias.call('PUT', `/comments/${mine}`, { text: 'Mine' })).status).to.equal(404)
    const refused = await say(w.client, 'Ask @Anouk Thapa')
    expect([refused.status, refused.body.reason]).to.deep.equal([
      422,
      'Anouk Thapa does not see all of this. Share it with them first, or leave the name out.',
    ])
    const { body } = await anouk.call('GET', '/team')
    await share('everything', { kind: 'person', id: body.me })
    expect((await say(w.client, 'Ask @anouk thapa')).status).to.equal(201)
    expect(await texts(anouk)).to.have.length(3)
    await share('everything')
  })

  it('are as private as their item was then, also after it is private no more', async () => {
    const meeting = await until('a meeting of the team is here', async () =>
      (await w.client.call('GET', `/cloth?from=${weekDay(0)}&days=7`)).body.items.find(
        (i: any) => i.kind === 'event' && i.sources.length === 1 && !i.key.includes('@'),
      ),
    )
    expect((await say(w.client, 'Between us', meeting.key)).status).to.equal(201)
    expect((await said(tobias, meeting.key)).comments).to.have.length(1)
    await w.app.ctx.db.run('UPDATE comments SET privacy = 2 WHERE mirror_id = :id', { id: meeting.key })
    expect((await said(tobias, meeting.key)).comments).to.deep.equal([])
    expect((await tobias.call('GET', '/comments?q=between')).body.lines).to.deep.equal([])
  })

  it('whoever is named and has not read it is told once, all in one letter', async () => {
    // Tobias has read his, so there is nothing to tell him. Anouk has not read what came after.
    await w.app.ctx.db.run('UPDATE comment_names SET told_at = NULL WHERE told_at IS NOT NULL')
    await said(tobias)
    await say(w.client, '@Anouk Thapa again')
    await w.app.ctx.db.run('UPDATE comment_names SET made_at = 0')
    const sent = await Promise.all([w.app.letters.sendDue(), w.app.letters.sendDue()])
    expect(sent[0] + sent[1]).to.equal(1)
    const got = await until('it is delivered', async () => (await letters()).length > 0 && letters())
    expect(got).to.have.length(1)
    const text = JSON.stringify(got[0])
    expect(text).to.include('anouk@quillmere.example').and.include('Ask @anouk thapa').and.include('again')
    expect(await w.app.letters.sendDue()).to.equal(0)
  })

  it('a letter that is not taken is sent later, and tells nothing that was hidden meanwhile', async () => {
    await say(w.client, '@Anouk Thapa, a third')
    await w.app.ctx.db.run('UPDATE comment_names SET made_at = 0')
    const nobodyThere = { url: 'smtp://127.0.0.1:1', from: 'loom@localhost' }
    expect(await new CommentLetters(w.app.ctx, nobodyThere).sendDue()).to.equal(0)
    const untold = () => w.app.ctx.db.rows('SELECT made_at FROM comment_names WHERE told_at IS NULL')
    expect(await untold()).to.have.length(1)
    expect(await w.app.letters.sendDue(), 'not at once').to.equal(0)
    await w.app.ctx.db.run('UPDATE comment_names SET made_at = 0 WHERE told_at IS NULL')
    const { body } = await anouk.call('GET', '/team')
    await share('title', { kind: 'person', id: body.me })
    expect(await w.app.letters.sendDue()).to.equal(0)
    expect(await untold()).to.deep.equal([])
    expect(await letters()).to.have.length(1)
  })

  it('one member who cannot be told stops no other', async () => {
    const { workspaceId } = (await w.client.call('GET', '/session')).body
    // Which one it is matters: nobody is told of what they said themselves.
    const row = await w.app.ctx.db.one<{ id: string }>("SELECT id FROM comments WHERE body LIKE '%a third'")
    expect(row?.id).to.be.a('string')
    await w.app.ctx.db.run('UPDATE comment_names SET told_at = 1')
    const name = async (who: Client, address: string): Promise<void> => {
      const { me } = (await who.call('GET', '/team')).body
      await w.app.ctx.db.run('UPDATE members SET email = :address WHERE id = :me', { address, me })
      await w.app.ctx.db.run(
        `INSERT INTO comment_names (comment_id, member_id, workspace_id, made_at) VALUES (:id, :me, :workspaceId, 0)
         ON DUPLICATE KEY UPDATE told_at = NULL, made_at = 0`,
        { id: row?.id, me, workspaceId },
      )
    }
    await name(w.client, 'no address\n at all')
    await name(tobias, 'tobias@quillmere.example')
    await share('everything')
    const known = (await letters()).length
    expect(await w.app.letters.sendDue()).to.equal(1)
    await until('it is his', async () => (await letters()).length === known + 1)
  })

  it('a subject is one line, however a name or title is written', () => {
    const row = { who: 'Ines', body: 'Look' }
    const { subject } = commentLetter([{ row, title: 'A\r\nBcc: all@quillmere.example' }], 'http://x/')
    expect(subject).to.not.match(/[\r\n]/)
  })
})
