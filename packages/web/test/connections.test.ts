import { noTerms, type Terms } from '@loom/core/view'
import { expect } from 'chai'
import {
  clauseOf,
  hasTerms,
  meaningOf,
  newForm,
  type Offered,
  sameTerms,
  statusesOf,
  withClause,
} from '../src/features/connecting/intake-form.ts'
import { agoWords, type Collection, type Connection, healthOf, importOf } from '../src/stores/connections.ts'

/** The form that says what comes in, and the line that says how a connection fares. */

const terms: Terms = {
  ...noTerms,
  statuses: [
    { id: 'g1', name: 'Noted', means: 'needs-action' },
    { id: 'g4', name: 'Fixed', means: 'completed' },
  ],
}
const offered = (remoteId: string, set: Partial<Offered> = {}): Offered => ({
  remoteId,
  name: remoteId,
  itemKind: 'task',
  parent: null,
  whyNot: null,
  count: null,
  terms,
  unknown: [],
  ...set,
})

describe('the form of a new connection', () => {
  const all = [
    offered('glass'),
    offered('paths'),
    offered('plants#k3=kw1'),
    offered('home#tasks'),
    offered('contracts', { whyNot: 'Your account has no right to it.' }),
    offered('calendar', { itemKind: 'event', terms: noTerms }),
  ]
  const people = [
    { id: '1007', name: 'Ines Varga', email: null, me: true, memberId: 'm1' },
    { id: '1044', name: 'Fenwick Heating', email: null, me: false, memberId: null },
  ]
  const form = newForm('Repairs', all, people, 'm2')

  it('begins with everything that may come in, each once', () => {
    expect(form.takesPart).to.deep.equal(['glass', 'paths', 'home#tasks', 'calendar'])
    expect(form.scope).to.deep.include({ by: 'sentence', filter: [], notes: true })
  })

  it('belongs to whoever connects it, and knows who is who', () => {
    expect(form.ownerId).to.equal('m2')
    expect(form.people).to.deep.equal({ '1007': 'm1', '1044': null })
  })

  it('has a meaning for every list of tasks and a dye for everything', () => {
    expect(Object.keys(form.meanings)).to.have.members(
      all.filter(o => o.itemKind === 'task').map(o => o.remoteId),
    )
    expect(Object.values(form.dyes).every(d => /^#[0-9A-F]{6}$/.test(d))).to.equal(true)
    expect(meaningOf({ ...form, meanings: {} }, offered('new')).statuses).to.deep.equal({
      g1: 'needs-action',
      g4: 'completed',
    })
  })

  it('asks once about lists that say things in the same words', () => {
    const other: Terms = { ...terms, statuses: [{ id: 'p1', name: 'Wish', means: 'needs-action' }] }
    const groups = sameTerms([...all, offered('gates', { terms: other })])
    expect(groups.map(g => g.length)).to.deep.equal([5, 1])
    expect(hasTerms(offered('x', { terms: noTerms }))).to.equal(false)
    expect(hasTerms(offered('x'))).to.equal(true)
  })

  it('takes statuses from the column that was chosen for them', () => {
    const byColumn = offered('register', {
      terms: { ...terms, statusesByColumn: { k7: [{ id: 'st1', name: 'Asked', means: 'needs-action' }] } },
    })
    const meaning = meaningOf(form, byColumn)
    expect(statusesOf(byColumn, meaning).map(s => s.id)).to.deep.equal(['g1', 'g4'])
    expect(statusesOf(byColumn, { ...meaning, columns: { status: 'k7' } }).map(s => s.id)).to.deep.equal([
      'st1',
    ])
    expect(statusesOf(byColumn, { ...meaning, columns: { status: 'k99' } })).to.have.length(2)
  })

  it('holds one clause a field, which can be taken away again', () => {
    const one = withClause([], 'status', { field: 'status', is: ['needs-action'] })
    const two = withClause(one, 'since', { field: 'since', days: 14 })
    const changed = withClause(two, 'status', { field: 'status', is: ['completed'] })
    expect(changed).to.have.length(2)
    expect(clauseOf(changed, 'status')?.is).to.deep.equal(['completed'])
    expect(withClause(changed, 'status', null)).to.deep.equal([{ field: 'since', days: 14 }])
    expect(clauseOf([], 'since')).to.equal(undefined)
  })
})

describe('the health line', () => {
  const NOW = 1_800_000_000_000
  const collection = (set: Partial<Collection> = {}): Collection =>
    ({
      id: 'k',
      name: 'Paths',
      takesPart: true,
      syncedAt: NOW,
      trouble: null,
      importDone: 0,
      importTotal: null,
      ...set,
    }) as Collection
  const connection = (set: Partial<Connection> = {}): Connection =>
    ({
      state: 'ok',
      trouble: null,
      paused: false,
      failingSince: null,
      nextTryAt: null,
      lastOkAt: NOW - 7_000,
      collections: [collection()],
      ...set,
    }) as Connection
  const words = (set: Partial<Connection>): string => {
    const { words: w, detail, advice } = healthOf(connection(set), NOW)
    return [w, detail, advice].filter(Boolean).join(' | ')
  }

  it('tells how long ago it was in step', () => {
    expect(words({})).to.equal('In step | 7 s ago')
    expect(words({ lastOkAt: null })).to.equal('In step | never')
  })

  it('tells of a service that fails: since when, why, when next, and what to do', () => {
    const failing = healthOf(
      connection({
        state: 'failing',
        trouble: 'No server answers at board.example.',
        failingSince: NOW - 3_600_000,
        nextTryAt: NOW + 40_000,
      }),
      NOW,
    )
    expect(failing.tone).to.equal('wrong')
    expect(failing.words).to.equal('Failing')
    expect(failing.detail).to.equal(
      'No server answers at board.example. Since 1 h ago. Next try in 40\u00a0s.',
    )
    expect(failing.advice).to.not.equal('')
  })

  it('tells of being slowed, until when, and that nothing is to be done', () => {
    expect(
      words({ state: 'slowed', trouble: 'It asks us to slow down.', nextTryAt: NOW + 180_000 }),
    ).to.match(
      /^Slowed by the service \| It asks us to slow down\. Next try in 3\u00a0min\. \| Nothing to do/,
    )
  })

  it('tells that a sign-in has run out, before anything else that is wrong', () => {
    const out = healthOf(
      connection({ state: 'signed-out', collections: [collection({ syncedAt: null })] }),
      NOW,
    )
    expect([out.words, out.tone]).to.deep.equal(['Signed out', 'wrong'])
    expect(out.advice).to.match(/Sign in again; nothing is lost/)
  })

  it('is at rest when paused, whatever the service does', () => {
    expect(healthOf(connection({ paused: true, state: 'failing' }), NOW)).to.include({
      tone: 'resting',
      words: 'Paused',
    })
  })

  it('counts a first import over all lists that take part', () => {
    const collections = [
      collection({ syncedAt: null, importDone: 40, importTotal: 118 }),
      collection({ syncedAt: null, importDone: 2, importTotal: 7 }),
      collection({ syncedAt: null, takesPart: false, importTotal: 1000 }),
      collection(),
    ]
    expect(importOf(connection({ collections }))).to.deep.equal({ done: 42, total: 125 })
    expect(words({ collections })).to.match(/^Catching up, 42 of 125 \|/)
    const open = [...collections, collection({ syncedAt: null, importDone: 1 })]
    expect(words({ collections: open }), 'how many there are is not known').to.match(
      /^Catching up, 43 so far/,
    )
    expect(importOf(connection())).to.equal(null)
  })

  it('names the one list that waits', () => {
    const trouble = 'It can no longer be found at the service.'
    expect(words({ collections: [collection(), collection({ trouble })] })).to.equal(
      `Paths waits | ${trouble}`,
    )
  })

  const AGO: [number, string][] = [
    [0, 'just now'],
    [4_000, 'just now'],
    [59_000, '59 s ago'],
    [90_000, '2 min ago'],
    [3_600_000, '1 h ago'],
    [47 * 3_600_000, '47 h ago'],
    [72 * 3_600_000, '3 days ago'],
    // A clock a little ahead of the server’s.
    [-5_000, 'just now'],
  ]
  for (const [ms, told] of AGO)
    it(`calls ${ms} ms “${told}”`, () => {
      expect(agoWords(NOW - ms, NOW)).to.equal(told)
    })
})
