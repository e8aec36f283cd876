import { expect } from 'chai'
import { createPinia, setActivePinia } from 'pinia'
import { useLiveState } from '../src/stores/live-state.ts'
import { useMessages } from '../src/stores/messages.ts'

setActivePinia(createPinia())
const { dismiss, forgetUndo, messages, say, takeBack, takeBackLatest } = useMessages()

describe('taking back what was said to be done', () => {
  const undone: string[] = []
  const did = (what: string): number => say({ text: what, undo: () => void undone.push(what), stays: true })

  beforeEach(() => {
    forgetUndo()
    undone.length = 0
  })
  after(forgetUndo)

  it('goes back one by one, also to what is no longer on the screen', async () => {
    for (const what of ['moved', 'renamed', 'ticked', 'given']) did(what)
    say({ text: 'said only', stays: true })
    expect(messages.map(m => m.text)).to.deep.equal(['ticked', 'given', 'said only'])
    dismiss(messages[1]?.id ?? 0)
    for (let n = 0; n < 4; n++) await takeBackLatest()
    expect(undone).to.deep.equal(['given', 'ticked', 'renamed', 'moved'])
    await takeBackLatest()
    expect(undone).to.have.length(4)
    expect(messages.at(-1)?.text).to.equal('There is nothing to take back.')
  })

  it('takes nothing back twice, and nothing of whoever was signed in before', async () => {
    did('moved')
    const message = messages[0]
    if (!message) throw new Error('nothing was said')
    takeBack(message)
    await takeBackLatest()
    expect(undone).to.deep.equal(['moved'])
    did('renamed')
    forgetUndo()
    await takeBackLatest()
    expect(undone).to.deep.equal(['moved'])
  })

  it('waits for what is on its way', async () => {
    did('moved')
    useLiveState().editsUnderway = 1
    const back = takeBackLatest()
    did('made longer')
    expect(undone).to.deep.equal([])
    useLiveState().editsUnderway = 0
    await back
    expect(undone).to.deep.equal(['made longer'])
  })
})
