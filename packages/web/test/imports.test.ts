import { expect } from 'chai'
import { createPinia, setActivePinia } from 'pinia'
import type { Connection } from '../src/stores/connections.ts'
import { useImports } from '../src/stores/imports.ts'
import { useMessages } from '../src/stores/messages.ts'

const connection = (id: string, syncedAt: number | null, importDone: number): Connection =>
  ({
    id,
    name: id,
    state: 'ok',
    collections: [{ takesPart: true, syncedAt, importDone, importTotal: 9 }],
  }) as unknown as Connection

describe('first imports, as the page sees them', () => {
  setActivePinia(createPinia())
  const { ended, expect: isMade, look } = useImports()
  const said = (): string[] => useMessages().messages.map(m => m.text)
  after(() => useMessages().forgetUndo())

  it('end with a word, also one that was over before it was looked at, and only those that were seen to come', () => {
    look([connection('old', 1, 40)])
    expect(ended.size).to.equal(0)
    look([connection('slow', null, 3)])
    expect(ended.size).to.equal(0)
    look([connection('slow', 1, 9)])
    expect(ended.get('slow')?.items).to.equal(9)
    isMade('quick')
    look([connection('quick', 1, 1)])
    expect(ended.get('quick')?.items).to.equal(1)
    expect(said().at(-1)).to.equal('quick: all is in, 1 item.')
    look([connection('quick', 1, 2)])
    expect(ended.get('quick')?.items).to.equal(1)
  })
})
