import { type ClothItem, epochOf, zoned } from '@loom/core/view'
import { expect } from 'chai'
import { drawnItem } from '../../core/test/support/drawn-item.ts'
import { clockOf } from '../src/ui/typed-hours.ts'
import { menuOf } from '../src/features/cloth/data/commands.ts'
import { keyAction, keyOf } from '../src/features/cloth/data/keys.ts'
import { edgeOf, stitchesOf } from '../src/features/cloth/data/signs.ts'

const ZONE = 'Europe/Dublin'
const startMs = epochOf(zoned('2026-11-25T10:00:00', ZONE), ZONE)
const block = drawnItem('k', { kind: 'timed', startMs, endMs: startMs + 45 * 60_000 }, { kind: 'tied' })
const TERMS = {
  zone: ZONE,
  defaultMinutes: 30,
  now: startMs,
  keys: {},
  task: null,
  onlyLooks: false,
  clocked: null as string | null,
  unsupported: [] as string[],
}
const press = (item: ClothItem, key: string, held: Partial<KeyboardEvent> = {}) =>
  keyAction(item, { key, shiftKey: false, altKey: false, ctrlKey: false, metaKey: false, ...held }, TERMS)
const at = (local: string) => ({ kind: 'edit', edit: { do: 'place', start: zoned(local, ZONE) } })

describe('keys on an item', () => {
  it('move it in time, by a quarter of an hour or by five minutes, and from day to day', () => {
    expect(press(block, 'ArrowRight')).to.deep.equal(at('2026-11-25T10:15:00'))
    expect(press(block, 'ArrowLeft', { altKey: true })).to.deep.equal(at('2026-11-25T09:55:00'))
    expect(press(block, 'ArrowDown')).to.deep.equal(at('2026-11-26T10:00:00'))
  })

  it('keep the hour on the wall when the next day has changed its clocks', () => {
    const ms = epochOf(zoned('2026-03-28T10:00:00', ZONE), ZONE)
    const before: ClothItem = { ...block, place: { kind: 'timed', startMs: ms, endMs: ms + 60_000 } }
    expect(press(before, 'ArrowDown')).to.deep.equal(at('2026-03-29T10:00:00'))
  })

  it('change its length, but not to less than five minutes', () => {
    expect(press(block, 'ArrowRight', { shiftKey: true })).to.deep.equal({
      kind: 'edit',
      edit: { do: 'lengthen', minutes: 60 },
    })
    const short: ClothItem = { ...block, place: { kind: 'timed', startMs, endMs: startMs + 15 * 60_000 } }
    expect(press(short, 'ArrowLeft', { shiftKey: true })).to.equal(null)
  })

  it('complete, open again, shelve; and leave alone what cannot be', () => {
    expect(press(block, ' ')).to.deep.equal({ kind: 'edit', edit: { do: 'complete' } })
    expect(press({ ...block, done: true }, ' ')).to.deep.equal({ kind: 'edit', edit: { do: 'reopen' } })
    expect(press(block, 'Delete')).to.deep.equal({ kind: 'edit', edit: { do: 'unplace' } })
    const event: ClothItem = { ...block, kind: 'event', movable: false, completable: false }
    expect([' ', 'Delete', 'p', 'r'].map(k => press(event, k))).to.deep.equal([null, null, null, null])
    expect(press(event, 'Enter')).to.deep.equal({ kind: 'menu' })
  })

  it('delete a block or a batch, but never a task by a slip of the finger', () => {
    expect(press({ ...block, kind: 'block' }, 'Delete')).to.deep.equal({
      kind: 'edit',
      edit: { do: 'delete' },
    })
    expect(press({ ...block, place: { kind: 'none' } }, 'Delete')).to.equal(null)
  })

  it('can be other ones, as somebody likes them', () => {
    const own = { ...TERMS, keys: { place: 'h' } }
    const held = { shiftKey: false, altKey: false, ctrlKey: false, metaKey: false }
    expect(keyAction(block, { key: 'h', ...held }, own)).to.deep.equal({ kind: 'ask', act: 'place' })
    expect(keyAction(block, { key: 'p', ...held }, own)).to.equal(null)
  })

  it('do what the menu says beside them, of every kind of item in every state', () => {
    const kinds = ['task', 'tied', 'event', 'block', 'batch'] as const
    const places: ClothItem['place'][] = [block.place, { kind: 'day', date: '2026-11-25' }, { kind: 'none' }]
    let lines = 0
    for (const kind of kinds)
      for (const place of places)
        for (const flags of [0, 1, 2, 3, 4, 5, 6, 7]) {
          const [done, movable, completable] = [flags % 2 > 0, flags % 4 > 1, flags > 3]
          const item: ClothItem = { ...block, kind, place, done, movable, completable }
          for (const command of menuOf(item, TERMS)) {
            const { key } = command
            const pressed = typeof key === 'string' ? [keyOf(key, {})] : (key?.pressed ?? [])
            for (const one of pressed) {
              lines++
              expect(press(item, one), `${kind} ${command.name(item)} by ${one}`).to.deep.equal(
                command.outcome(item, TERMS),
              )
            }
          }
        }
    expect(lines).to.be.greaterThan(500)
  })

  it('change nothing for a reader, who may open and select', () => {
    const looks = { ...TERMS, onlyLooks: true }
    const pressed = (key: string) =>
      keyAction(block, { key, shiftKey: false, altKey: false, ctrlKey: false, metaKey: false }, looks)
    for (const key of ['ArrowRight', ' ', 'Delete', 'p', 'r', 'x', 'd', 'm'])
      expect(pressed(key), key).to.equal(null)
    expect(pressed('o')).to.deep.equal({ kind: 'ask', act: 'open' })
    expect(pressed('c')).to.deep.equal({ kind: 'choose' })
    expect(menuOf(block, looks).map(c => c.name(block))).to.deep.equal(['Open'])
  })

  it('leave the browser its own shortcuts', () => {
    expect(press(block, 'p', { ctrlKey: true })).to.equal(null)
  })
})

describe('an hour, as typed', () => {
  it('is understood in the ways people write one, and otherwise not guessed', () => {
    expect(['9', '9:30', '0930', '9.05', ' 23:59 '].map(clockOf)).to.deep.equal([
      '09:00',
      '09:30',
      '09:30',
      '09:05',
      '23:59',
    ])
    expect(['2:30 pm', '12 am', '12pm', '9a', '0930 PM'].map(clockOf)).to.deep.equal([
      '14:30',
      '00:00',
      '12:00',
      '09:00',
      '21:30',
    ])
    expect(['13 pm', '0 am'].map(clockOf)).to.deep.equal([null, null])
    expect(['', 'noon', '24:00', '9:60', '9:3', '-1'].map(clockOf)).to.deep.equal([
      null,
      null,
      null,
      null,
      null,
      null,
    ])
  })
})

describe('signs', () => {
  it('weave the edge of a tied pair of both dyes', () => {
    expect(edgeOf(['#4E6B35'])).to.equal('#4E6B35')
    expect(edgeOf(['#4E6B35', '#1C6C77']))
      .to.contain('#4E6B35')
      .and.contain('#1C6C77')
  })
  it('give no stitch to no priority and three to the highest', () => {
    expect([0, 1, 3, 5, 9].map(stitchesOf)).to.deep.equal([0, 3, 2, 1, 0])
  })
})
