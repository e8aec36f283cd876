import { expect } from 'chai'
import { createPinia, setActivePinia } from 'pinia'
import { useLiveState } from '../src/stores/live-state.ts'
import { type BackStep, keptSteps } from '../src/stores/kept-steps.ts'
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

describe('what can be taken back after a reload', () => {
  const storage = new Map<string, string>()
  const session = {
    getItem: (name: string) => storage.get(name) ?? null,
    setItem: (name: string, value: string) => void storage.set(name, value),
    removeItem: (name: string) => void storage.delete(name),
  }
  const edit = { do: 'complete' } as const
  const step: BackStep = { do: 'edits', title: 'Vent motor', edits: [{ key: 'a', edit }] }
  /** The store as a page begins with it. */
  const loaded = (ran: BackStep[]) => {
    setActivePinia(createPinia())
    const store = useMessages()
    store.restore(async back => void ran.push(back))
    return store
  }

  before(() => Object.assign(globalThis, { sessionStorage: session }))
  after(() => {
    Object.assign(globalThis, { sessionStorage: undefined })
    setActivePinia(createPinia())
  })
  beforeEach(() => storage.clear())

  it('is what was done on the page before, the latest first, and once', async () => {
    const first = loaded([])
    first.say({ text: 'Vent motor: done.', undo: () => undefined, back: step, stays: true })
    first.say({ text: 'Only here', undo: () => undefined, stays: true })
    const ran: BackStep[] = []
    await loaded(ran).takeBackLatest()
    expect(ran).to.deep.equal([step])
    const again: BackStep[] = []
    const third = loaded(again)
    await third.takeBackLatest()
    expect(again).to.deep.equal([])
    expect(third.messages.at(-1)?.text).to.equal('There is nothing to take back.')
    for (const { id } of [...third.messages]) third.dismiss(id)
  })

  it('is nothing of somebody who has signed out, of long ago, or that cannot be read', () => {
    const first = loaded([])
    first.say({ text: 'Done.', undo: () => undefined, back: step, stays: true })
    expect(keptSteps(Date.now())).to.have.length(1)
    expect(keptSteps(Date.now() + 9 * 3_600_000)).to.have.length(0)
    first.forgetUndo()
    expect(keptSteps(Date.now())).to.have.length(0)
    for (const odd of ['{', '{"a":1}', '[1,null,{"text":"x"}]']) {
      storage.set('loom.steps-back', odd)
      expect(keptSteps(Date.now()), odd).to.deep.equal([])
    }
  })

  it('shows the latest of what was done, beside what went wrong or asks for something', () => {
    forgetUndo()
    say({ text: 'moved', undo: () => undefined })
    say({ text: 'refused', tone: 'wrong' })
    say({ text: 'made', act: { name: 'Open', run: () => undefined } })
    say({ text: 'renamed', undo: () => undefined })
    expect(messages.map(m => m.text)).to.deep.equal(['refused', 'made', 'renamed'])
    for (const { id } of [...messages]) dismiss(id)
  })
})
