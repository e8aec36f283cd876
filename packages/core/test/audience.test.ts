import { expect } from 'chai'
import { type Grant, type Level, type Onlooker, type Shared, widenedBy } from '@loom/core'

/** Rules are a channel: who would see by one what they do not see without it. */
describe('who sees more by a rule', () => {
  const people: Onlooker[] = ['ines', 'tobias', 'anouk'].map(id => ({ id, role: 'member', groups: [] }))
  const list = (level: Level, ...more: Grant[]): Shared => ({
    owner: 'ines',
    grants: [{ to: { kind: 'everybody' }, level }, ...more],
    asBefore: false,
  })
  const widened = (
    source: Shared,
    target: Shared,
    { carried = 'everything' as Level, isClassed = false, opened = {} as Record<string, Level> } = {},
  ) =>
    widenedBy(people, [source], [target], {
      carried,
      isClassed,
      opened: who => opened[who.id] ?? 'nothing',
    }).map(w => [w.person, w.from, w.to].join(' '))

  it('is whoever sees more of the target than of the source, as far as the rule carries', () => {
    expect(widened(list('busy'), list('title'))).to.deep.equal(['tobias busy title', 'anouk busy title'])
    expect(widened(list('nothing'), list('change'), { carried: 'title' })).to.deep.equal([
      'tobias nothing title',
      'anouk nothing title',
    ])
    const tobias: Grant = { to: { kind: 'person', id: 'tobias' }, level: 'everything' }
    expect(widened(list('busy', tobias), list('title'))).to.deep.equal(['anouk busy title'])
    expect(widened(list('title'), list('title'))).to.deep.equal([])
    expect(widened(list('title'), list('change'), { isClassed: true })).to.deep.equal([])
  })

  it('is also whoever sees some of the target by a saved view', () => {
    const [source, target] = [list('nothing'), list('nothing')]
    expect(widened(source, target, { opened: { anouk: 'everything' } })).to.deep.equal([
      'anouk nothing everything',
    ])
    expect(widened(source, target, { carried: 'title', opened: { anouk: 'everything' } })).to.deep.equal([
      'anouk nothing title',
    ])
    // What a rule marks private there is no more than busy by a view.
    expect(widened(source, target, { isClassed: true, opened: { anouk: 'everything' } })).to.deep.equal([
      'anouk nothing busy',
    ])
  })
})
