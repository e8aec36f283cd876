import { expect } from 'chai'
import { type ClothItem, epochOf, whole, zoned } from '@loom/core/view'
import { wallDay } from '../src/features/guest/wall-day.ts'

const ZONE = 'Asia/Kathmandu'
const at = (clock: string, day = '2026-06-17'): number => epochOf(zoned(`${day}T${clock}:00`, ZONE), ZONE)
const item = (key: string, place: ClothItem['place'], more: Partial<ClothItem> = {}): ClothItem => ({
  ...whole({ key, kind: 'event', title: key, place, sources: [] }),
  people: ['a'],
  ...more,
})
const timed = (from: string, to: string, day?: string) => ({
  kind: 'timed' as const,
  startMs: at(from, day),
  endMs: at(to, day),
})
const PEOPLE = [
  { id: 'a', name: 'Ada Zorblax' },
  { id: 'b', name: 'Bo Quennip' },
]

describe('a wall screen', () => {
  it('tells for each person what is now, what comes today, and what is all day', () => {
    const items = [
      item('early', timed('08:00', '09:00')),
      item('long', timed('09:00', '12:00')),
      item('short', timed('10:00', '10:45')),
      item('later', timed('14:00', '15:00')),
      item('sooner', timed('13:00', '13:30'), { people: ['a', 'b'] }),
      item('tomorrow', timed('09:00', '10:00', '2026-06-18')),
      item('fair', { kind: 'all-day', from: '2026-06-16', to: '2026-06-18' }),
      item('over', { kind: 'all-day', from: '2026-06-15', to: '2026-06-17' }),
    ]
    const [ada, bo, ...more] = wallDay(items, PEOPLE, at('10:15'), ZONE)
    expect([ada?.now?.title, ada?.ahead.map(l => l.title), ada?.wholeDay]).to.deep.equal([
      'short',
      ['sooner', 'later'],
      ['fair'],
    ])
    expect([bo?.now, bo?.ahead.map(l => l.title)]).to.deep.equal([null, ['sooner']])
    expect(more).to.deep.equal([])
  })
  it('says busy where that is all that is seen, leaves out what is done or called off, and shows the team’s own last', () => {
    const items = [
      item('secret', timed('10:00', '11:00'), { onlyBusy: true }),
      item('done', timed('10:00', '11:00'), { done: true }),
      item('off', timed('12:00', '13:00'), { cancelled: true }),
      item('all', timed('12:00', '13:00'), { people: [] }),
    ]
    const [ada, , team] = wallDay(items, PEOPLE, at('10:15'), ZONE)
    expect([ada?.now?.title, ada?.ahead]).to.deep.equal(['busy', []])
    expect([team?.name, team?.ahead.map(l => l.title)]).to.deep.equal(['The team', ['all']])
  })
})
