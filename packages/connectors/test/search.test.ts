import { expect } from 'chai'
import { newTask } from '@loom/core'
import { type RemoteItem, ServiceError } from '../src/connector.ts'
import { type Search, verdictOf } from '../src/http-json/search.ts'

/** What a search for our marker says of a creation whose answer was lost. */
describe('looking for what a lost creation made', () => {
  const found = (remoteId: string, created: string | null): RemoteItem => ({
    remoteId,
    collectionId: 'one',
    revision: '1',
    original: '{}',
    item: { ...newTask('mine@loom', { summary: 'Mine' }), created },
  })
  const closed = [{ name: 'Night crew', error: new ServiceError('missing', 'It is not there.') }]
  const judge = (search: Partial<Search>, triedAgoMs = 60_000) =>
    verdictOf({ found: [], unreadable: 0, closed: [], ...search }, triedAgoMs, 10_000)
  const early = '2026-11-25T10:00:00.000Z'
  const late = '2026-11-25T10:00:07.000Z'

  it('one that bears it was made', () => {
    for (const more of [{}, { closed }, { unreadable: 1 }])
      expect(judge({ found: [found('7', null)], ...more }, 0)).to.deep.equal({
        kind: 'made',
        item: found('7', null),
      })
  })
  it('of several, the first made is ours, in whatever order they are listed', () => {
    for (const all of [
      [found('7', early), found('8', late)],
      [found('8', late), found('7', early)],
    ])
      expect(judge({ found: all })).to.deep.equal({ kind: 'made', item: found('7', early) })
  })
  it('of several whose order nobody knows, somebody has to say', () => {
    for (const [one, other] of [
      [null, null],
      [early, early],
      [null, early],
    ] as const) {
      const verdict = judge({ found: [found('7', one), found('8', other)] })
      expect(verdict).to.deep.include({ kind: 'unsure', againMs: null })
      expect(verdict.kind === 'unsure' && verdict.reason).to.match(/^2 items there bear our mark/)
    }
  })
  it('none, where everything was looked at and enough time has gone by: it was not made', () => {
    expect(judge({})).to.deep.equal({ kind: 'not-made' })
  })
  it('none, a moment after it was sent: looked for again', () => {
    expect(judge({}, 4_000)).to.deep.include({ kind: 'unsure', againMs: 6_000 })
  })
  it('none, with a list that cannot be looked at: somebody has to say, and is told which', () => {
    const verdict = judge({ closed })
    expect(verdict).to.deep.include({ kind: 'unsure', againMs: null })
    expect(verdict.kind === 'unsure' && verdict.reason).to.contain('“Night crew” cannot be looked at')
  })
  it('something that bears it and cannot be read: somebody has to say', () => {
    expect(judge({ unreadable: 1 })).to.deep.include({ kind: 'unsure', againMs: null })
  })
})
