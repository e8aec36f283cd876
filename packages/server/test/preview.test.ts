import { expect } from 'chai'
import { defaultSettings } from '@loom/core'
import { previewRule, progressOf } from '../src/sync/plan/preview.ts'
import { startWorld, until, type World } from './support/world.ts'

describe('the preview of a rule', function () {
  this.timeout(40_000)
  let w: World

  before(async () => {
    w = await startWorld()
    await until('everything was read', async () => {
      const { body } = await w.client.call('GET', '/connections')
      return body.connections.every((c: any) => c.collections.every((k: any) => k.syncedAt !== null))
    })
  })
  after(() => w.close())

  it('tells whoever waits for it, and nobody else, how far it has come', async () => {
    const ines = await w.app.ctx.db.one<{ id: string; workspaceId: string }>(
      `SELECT id, workspace_id AS workspaceId FROM members WHERE email = 'ines@quillmere.example'`,
    )
    const who = { id: ines?.id ?? '', workspaceId: ines?.workspaceId ?? '', role: 'coordinator' as const }
    const { workspaceId } = who
    const [a, b] = await Promise.all(
      ['Small repairs', 'House repairs'].map(async name => {
        const row = await w.app.ctx.db.one<{ id: string }>('SELECT id FROM collections WHERE name = :name', {
          name,
        })
        return row?.id ?? ''
      }),
    )
    const draft = { id: null, name: null, a: a ?? '', b: b ?? '', settings: defaultSettings }
    const coming = previewRule(w.app.ctx, who, draft, 'mine')
    expect(progressOf(workspaceId, 'mine')).to.include({ read: 0 })
    expect(progressOf('another workspace', 'mine')).to.equal(null)
    const held = progressOf(workspaceId, 'mine')
    const { sides } = await coming
    // Both sides were read to their end.
    expect(held).to.deep.equal({ read: held?.of, of: held?.of })
    expect(held?.of).to.be.at.least(sides.a + sides.b)
    expect(progressOf(workspaceId, 'mine')).to.equal(null)
  })

  it('says what the first pass then does, and that only', async () => {
    const { connections } = (await w.client.call('GET', '/connections')).body
    const idOf = (name: string): string =>
      connections.flatMap((c: any) => c.collections).find((k: any) => k.name === name).id
    const draft = { id: null, a: idOf('Small repairs'), b: idOf('House repairs'), settings: defaultSettings }
    const { body: preview } = await w.client.call('POST', '/rules/preview', draft)
    expect(preview.counts).to.include({
      make: 0,
      change: 0,
      remove: 0,
      match: 1,
      none: 2,
      outside: 0,
      stopped: 0,
    })
    expect(preview.decisions.map((d: any) => [d.title, d.effect, d.reason]).sort()).to.deep.equal([
      ['Boiler valve quote', 'none', 'no-hour'],
      ['Check frost alarms', 'none', 'no-hour'],
      ['Repair vent motor, House 3', 'match', 'matched'],
    ])
    const before = (await w.garden.events('house-repairs')).map(e => e.etag)
    await w.bench.edit((await w.bench.titled('repairs', 'Boiler valve quote'))[0]?.id ?? '', {
      hour: '14:00',
    })
    const later = await until('the preview is of what stands there now', async () => {
      const { body } = await w.client.call('POST', '/rules/preview', draft)
      return body.counts.make === 1 && body
    })
    expect(
      (await w.garden.events('house-repairs')).map(e => e.etag),
      'a preview writes nothing',
    ).to.deep.equal(before)

    expect((await w.client.call('POST', '/rules', draft)).status).to.equal(201)
    await until(
      'the event is made',
      async () => (await w.garden.titled('house-repairs', 'Boiler valve quote'))[0],
    )
    const written = await until('it is in the journal', async () => {
      const { lines } = (await w.client.call('GET', '/journal')).body
      const ours = lines.filter((l: any) => l.rule === 'Small repairs ⇄ House repairs')
      return ours.length > 0 && ours.map((l: any) => [l.title, l.op])
    })
    expect(written).to.deep.equal([['Boiler valve quote', 'create']])
    expect(later.decisions.filter((d: any) => d.fields.length > 0).map((d: any) => d.title)).to.deep.equal([
      'Boiler valve quote',
    ])
  })

  it('refuses a pair that cannot be ruled, and says why', async () => {
    const { connections } = (await w.client.call('GET', '/connections')).body
    const idOf = (name: string): string =>
      connections.flatMap((c: any) => c.collections).find((k: any) => k.name === name).id
    const reason = async (a: string, b: string): Promise<string> =>
      (await w.client.call('POST', '/rules', { id: null, a, b, settings: defaultSettings })).body.reason
    expect(await reason(idOf('Ideas'), idOf('Trustees'))).to.equal(
      'Trustees can only be read, so nothing could be kept in step there. Put it on the first side.',
    )
    expect(await reason(idOf('Festival'), idOf('Festival work'))).to.equal(
      'Another rule pairs these two already.',
    )
    expect(await reason(idOf('Teaching'), idOf('Ideas'))).to.equal(
      'Put the task list on the first side and the calendar on the second.',
    )
  })
})
