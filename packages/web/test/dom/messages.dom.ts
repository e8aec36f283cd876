import { expect } from 'chai'
import { createPinia, setActivePinia } from 'pinia'
import { nextTick } from 'vue'
import MessageStack from '../../src/ui/MessageStack.vue'
import { useMessages } from '../../src/stores/messages.ts'
import { shown } from './shown.ts'

describe('messages on the screen', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('are said to screen readers, go by their button, and take back what they say was done', async () => {
    const { wrapper, button } = shown(MessageStack as never, {})
    const undone: string[] = []
    const { say } = useMessages()
    say({ text: 'Boiler: moved.', undo: () => void undone.push('move'), stays: true })
    say({ text: 'Boiler: renamed.', undo: () => void undone.push('name'), stays: true })
    await nextTick()
    expect(wrapper.get('[role=status]').attributes('aria-live')).to.equal('polite')
    expect(wrapper.findAll('.text').map(t => t.text())).to.deep.equal(['Boiler: moved.', 'Boiler: renamed.'])
    await button('Undo').trigger('click')
    expect(undone).to.deep.equal(['move'])
    expect(wrapper.findAll('.text').map(t => t.text())).to.deep.equal(['Boiler: renamed.'])
    await button('Close this message').trigger('click')
    expect(wrapper.findAll('.text')).to.have.length(0)
    // What has left the screen can still be taken back.
    await useMessages().takeBackLatest()
    expect(undone).to.deep.equal(['move', 'name'])
  })

  it('offer one step besides undoing, once', async () => {
    const { wrapper, button } = shown(MessageStack as never, {})
    let opened = 0
    useMessages().say({ text: 'Made.', act: { name: 'Open', run: () => void opened++ }, stays: true })
    await nextTick()
    await button('Open').trigger('click')
    expect([opened, wrapper.findAll('.text').length]).to.deep.equal([1, 0])
  })
})
