import { expect } from 'chai'
import { nextTick } from 'vue'
import { shown } from './shown.ts'

import SentenceChoice from '../../src/ui/SentenceChoice.vue'
import ChooseSome from '../../src/ui/ChooseSome.vue'

const WAYS = [
  { value: 'both', label: 'both ways' },
  { value: 'a-to-b', label: 'from the list' },
  { value: 'off', label: 'not at all' },
]
const settled = async (): Promise<void> => {
  await nextTick()
  await nextTick()
}

describe('a choice inside a sentence', () => {
  const choice = () =>
    shown(SentenceChoice as never, { name: 'Titles go', options: WAYS, modelValue: 'a-to-b' })

  it('opens at what is chosen, walks with the arrows, chooses, and gives the focus back', async () => {
    const { wrapper, button } = choice()
    await button('Titles go: from the list').trigger('click')
    await settled()
    expect(document.activeElement?.textContent?.trim()).to.equal('from the list')
    const list = wrapper.get('[role=menu]')
    await list.trigger('keydown', { key: 'ArrowDown' })
    expect(document.activeElement?.textContent?.trim()).to.equal('not at all')
    await wrapper.findAll('[role=menuitemradio]')[2]?.trigger('click')
    await settled()
    expect(wrapper.emitted('update:modelValue')).to.deep.equal([['off']])
    expect(wrapper.find('[role=menu]').exists()).to.equal(false)
    expect(document.activeElement?.getAttribute('aria-label')).to.match(/^Titles go/)
  })

  it('closes by Escape without a choice, and keeps Escape to itself', async () => {
    const { wrapper, button } = choice()
    let heard = 0
    const count = (): number => ++heard
    window.addEventListener('keydown', count)
    await button('Titles go: from the list').trigger('click')
    await settled()
    await wrapper.get('[role=menu]').trigger('keydown', { key: 'Escape' })
    await settled()
    window.removeEventListener('keydown', count)
    expect([wrapper.find('[role=menu]').exists(), wrapper.emitted('update:modelValue'), heard]).to.deep.equal(
      [false, undefined, 0],
    )
  })
})

describe('some of several', () => {
  const options = ['glass', 'roof', 'beds'].map(value => ({
    value,
    label: value,
    disabled: value === 'beds',
  }))
  const some = (modelValue: string[], none?: string) =>
    shown(ChooseSome as never, { name: 'Categories', label: 'two', options, modelValue, none })

  it('keeps the order of the options, whatever the order of choosing', async () => {
    const { wrapper, button } = some(['roof'])
    await button('Categories: two').trigger('click')
    await settled()
    await wrapper.findAll('input')[0]?.trigger('change')
    await wrapper.findAll('input')[1]?.trigger('change')
    expect(wrapper.emitted('update:modelValue')).to.deep.equal([[['glass', 'roof']], [['glass']]])
    expect(wrapper.findAll('input')[2]?.attributes('disabled')).to.not.equal(undefined)
  })

  it('offers to choose none only where something is chosen and none means something', async () => {
    for (const [chosen, none, offered] of [
      [['roof'], 'Everything', true],
      [[], 'Everything', false],
      [['roof'], undefined, false],
    ] as const) {
      const { wrapper, button } = some([...chosen], none)
      await button('Categories: two').trigger('click')
      await settled()
      expect(wrapper.text().includes('Everything'), `${chosen.length} ${none}`).to.equal(offered)
      wrapper.unmount()
    }
  })
})
