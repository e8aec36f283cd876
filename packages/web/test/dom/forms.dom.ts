import { expect } from 'chai'
import { nextTick } from 'vue'
import { shown, type Shown } from './shown.ts'

import ChooseOne from '../../src/ui/ChooseOne.vue'
import ColumnMapping from '../../src/features/files/ColumnMapping.vue'
import RuleFilter from '../../src/features/rules/RuleFilter.vue'
import WhatItMeans from '../../src/features/connecting/WhatItMeans.vue'

const settled = async (): Promise<void> => {
  for (let i = 0; i < 4; i++) await nextTick()
}
/** Opens the list with that name and clicks the choice, as a person does. */
async function choose({ wrapper }: Shown, name: string, words: string): Promise<void> {
  const field = wrapper.get(`input[aria-label="${name}"]`)
  await field.trigger('keydown', { key: 'ArrowDown', which: 40, keyCode: 40 })
  await settled()
  const list = document
    .getElementById(field.attributes('aria-controls') ?? '')
    ?.closest('.ant-select-dropdown')
  const found = list?.querySelector<HTMLElement>(`.ant-select-item-option[title="${words}"]`)
  if (!found) throw new Error(`${name} has no choice “${words}”`)
  found.click()
  await settled()
}
const said = <T>({ wrapper }: Shown): T | undefined => wrapper.emitted('update:modelValue')?.at(-1)?.[0] as T

describe('one of several, in a form', () => {
  const options = [
    { value: 1, label: 'Monday' },
    { value: 7, label: 'Sunday' },
  ]
  const one = (modelValue: number | null) =>
    shown(ChooseOne as never, { name: 'First day', options, none: 'no day', modelValue })

  it('has a name, refers to no list while it is closed, and says what is chosen, also none', async () => {
    const field = one(7).wrapper.get('input')
    await settled()
    expect(field.attributes()).to.include({ 'aria-label': 'First day', 'aria-expanded': 'false' })
    expect(field.attributes()).to.not.have.any.keys('aria-controls', 'aria-owns')
    expect(one(null).wrapper.text()).to.contain('no day')
  })

  it('gives values and not words', async () => {
    const day = one(7)
    await choose(day, 'First day', 'Monday')
    expect(said(day)).to.equal(1)
    await choose(day, 'First day', 'no day')
    expect(said(day)).to.equal(null)
  })
})

describe('which column of a table is what', () => {
  const mapping = {
    rows: 'task',
    columns: { title: 'Job', due: 'By' },
    order: 'day-first',
    zone: 'Europe/Dublin',
  }
  const table = () =>
    shown(ColumnMapping as never, {
      headings: ['Job', 'By', 'Done by'],
      sample: [['Oil the gate', '3/12/26', '']],
      remembered: false,
      modelValue: mapping,
    })

  it('gives a meaning to one column only: who takes it from another leaves that one out', async () => {
    const asked = table()
    await choose(asked, 'Column Done by is', 'the deadline')
    expect(said(asked)).to.deep.include({ columns: { title: 'Job', due: 'Done by' } })
    await choose(asked, 'Column Job is', 'left out')
    expect(said<typeof mapping>(asked)?.columns).to.not.have.property('title')
    expect(asked.wrapper.emitted('changed')).to.have.length(2)
  })
})

describe('who takes part in a rule', () => {
  const filter = (itemKind: 'task' | 'event') =>
    shown(RuleFilter as never, { name: 'Filter', itemKind, modelValue: [] })
  const opened = async (itemKind: 'task' | 'event'): Promise<Shown> => {
    const asked = filter(itemKind)
    await asked.button('Filter: all of them').trigger('click')
    await settled()
    return asked
  }

  it('takes several words, and no priority that is none', async () => {
    const asked = await opened('task')
    await choose(asked, 'Only those', 'with the words…')
    await asked.wrapper.get('input[aria-label^="Words"]').setValue(' glass,, roof ')
    await asked.button('Add filter').trigger('click')
    expect(said(asked)).to.deep.equal([{ field: 'words', of: ['glass', 'roof'], without: false }])

    const other = await opened('task')
    await choose(other, 'Only those', 'with a priority of at least…')
    await other.wrapper.get('input[aria-label^="Priority"]').setValue('12')
    await other.button('Add filter').trigger('click')
    expect(said(other)).to.equal(undefined)
  })

  it('offers of an event only what an event has', async () => {
    const asked = await opened('event')
    let refused = false
    await choose(asked, 'Only those', 'that are open').catch(() => (refused = true))
    expect(refused).to.equal(true)
  })
})

describe('what the words of a service mean', () => {
  const noted = { id: 'n', name: 'Noted', means: null }
  const shut = { id: 's', name: 'Shut', means: 'completed' as const }
  const offered = [
    {
      remoteId: 'glass',
      name: 'Glasshouse',
      itemKind: 'task',
      parent: null,
      whyNot: null,
      count: 3,
      unknown: ['n'],
      terms: { statuses: [noted, shut], priorities: [], roles: [], statusesByColumn: {}, dateRoles: false },
    },
  ]
  const meaning = { statuses: { s: 'completed' }, write: { completed: 's' }, priorities: {}, columns: {} }
  const asked = () =>
    shown(WhatItMeans as never, {
      offered,
      modelValue: { takesPart: ['glass'], meanings: { glass: meaning } },
    })

  it('counts the words without a meaning, and never writes a word for what it no longer means', async () => {
    const list = asked()
    expect(list.wrapper.text()).to.contain('1 status has no meaning yet')
    await choose(list, 'Shut means', 'cancelled')
    expect(said<{ meanings: unknown }>(list)?.meanings).to.deep.equal({
      glass: { ...meaning, statuses: { s: 'cancelled' }, write: {} },
    })
  })
})
