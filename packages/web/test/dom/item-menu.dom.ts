import { expect } from 'chai'
import { nextTick } from 'vue'
import { drawnItem } from '../../../core/test/support/drawn-item.ts'
import { shown } from './shown.ts'

import ItemMenu from '../../src/features/cloth/item/ItemMenu.vue'
import LoadPanel from '../../src/features/cloth/grid/LoadPanel.vue'

const HOUR = 3_600_000
const NINE = Date.parse('2026-11-25T09:00:00Z')
const at = new DOMRect(400, 300, 120, 30)
const timed = (key: string, hours = 1, rest = {}) =>
  drawnItem(key, { kind: 'timed', startMs: NINE, endMs: NINE + hours * HOUR }, rest)
const settled = async (): Promise<void> => {
  await nextTick()
  await nextTick()
}

describe('the menu of an item', () => {
  const menu = (item: ReturnType<typeof timed>, rest: Record<string, unknown> = {}) =>
    shown(ItemMenu as never, {
      item,
      task: null,
      at,
      zone: 'Europe/Dublin',
      defaultMinutes: 30,
      sources: [],
      keys: {},
      now: NINE,
      clash: null,
      room: [],
      ...rest,
    })

  it('has the focus on its first command, walks with the arrows, and acts on the one that is chosen', async () => {
    const { wrapper, button } = menu(timed('Boiler'))
    await settled()
    const all = wrapper.findAll('button.choice')
    expect(document.activeElement).to.equal(all[0]?.element)
    await wrapper.trigger('keydown', { key: 'ArrowDown' })
    expect(document.activeElement).to.equal(all[1]?.element)
    await wrapper.trigger('keydown', { key: 'ArrowUp' })
    expect(document.activeElement).to.equal(all[0]?.element)
    const complete = all.find(b => /^Complete/.test(b.text()))
    await complete?.trigger('click')
    expect(wrapper.emitted('act')).to.deep.equal([[{ kind: 'edit', edit: { do: 'complete' } }]])
    expect(() => button('Reopen')).to.throw()
  })

  it('offers nothing that its place does not allow, and says why it is fixed', () => {
    const fixed = menu(
      timed('Visit', 1, {
        kind: 'event',
        completable: false,
        movable: false,
        fixedBecause: 'It has guests.',
      }),
    )
    expect(fixed.wrapper.text()).to.include('It has guests.')
    expect(fixed.wrapper.text()).to.not.match(/Complete|Reopen/)
  })

  it('names what it clashes with, and where there is room', async () => {
    const free = { startMs: NINE + 3 * HOUR, endMs: NINE + 4 * HOUR }
    const clash = { stays: timed('Gate'), moves: timed('Boiler') }
    const { wrapper } = menu(timed('Boiler'), { clash, room: [free] })
    expect(wrapper.text()).to.match(/Clashes with Gate/)
    await wrapper.get('button.free').trigger('click')
    expect(wrapper.emitted('free')).to.deep.equal([[free]])
  })

  it('closes by Escape', async () => {
    const { wrapper } = menu(timed('Boiler'))
    await wrapper.trigger('keydown', { key: 'Escape' })
    expect(wrapper.emitted('close')).to.have.length(1)
  })
})

describe('what a row’s time is made of', () => {
  const row = (blocks: ReturnType<typeof timed>[], committed: number) => ({
    key: 'row',
    date: '2026-11-25',
    blocks: blocks.map(item => {
      const minutes = item.place.kind === 'timed' ? (item.place.endMs - item.place.startMs) / 60_000 : 0
      return { item, from: 540, to: 540 + minutes, lane: 0, lanes: 1 }
    }),
    head: [],
    counts: (item: { key: string }) => !item.key.startsWith('Mei'),
    load: {
      committed,
      capacity: 120,
      parts: { meetings: 0, blocks: committed, planned: 0 },
      withoutEstimate: 0,
    },
  })
  const panel = (blocks: ReturnType<typeof timed>[], committed: number) =>
    shown(LoadPanel as never, { row: row(blocks, committed), at, defaultMinutes: 30, canSend: false })

  it('says how much is too much, and offers what is ours to move', async () => {
    const { wrapper, button } = panel(
      [timed('Boiler', 2, { busy: true }), timed('Gate', 1, { movable: false })],
      180,
    )
    expect(wrapper.text()).to.match(/too much/)
    expect(wrapper.text()).to.not.include('Gate')
    await button('Boiler: any day this week').trigger('click')
    expect(wrapper.emitted('lighten')?.[0]).to.have.nested.property('[0].key', 'Boiler')
  })

  it('proposes only what frees time, says what would still be too much, and goes on to the next', async () => {
    const all = [
      timed('Visit', 1, { kind: 'event', movable: false, busy: true }),
      timed('Within the visit', 1, { busy: true }),
      timed('Boiler', 2, { busy: true }),
      timed('Mei’s own', 3, { busy: true }),
    ]
    const { wrapper, button } = panel(all, 240)
    expect(wrapper.text()).to.not.include('Within the visit').and.not.include('Mei')
    expect(wrapper.text()).to.match(/Boiler\s*frees 1 h, then .* too much/)
    await button('Boiler: any day this week').trigger('click')
    await wrapper.setProps({ row: row(all.slice(0, 2), 60) } as never)
    await settled()
    expect(wrapper.text()).to.match(/Nothing here is ours to move/)
    expect(wrapper.emitted('close')).to.equal(undefined)
  })

  it('says that nothing can be moved where all is fixed', () => {
    const { wrapper } = panel([timed('Gate', 1, { movable: false })], 60)
    expect(wrapper.text()).to.match(/Nothing here is ours to move/)
    expect(wrapper.text()).to.not.match(/too much/)
  })
})
