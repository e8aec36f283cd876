import {
  type Category,
  CategoryNames,
  type ClothItem,
  dyeFor,
  type EventKind,
  isOurMark,
  type ViewBody,
} from '@loom/core/view'
import type { Source } from './signs.ts'

/** What dyes an item: where it is from, what it is about, whose it is, or of what kind it is. */

const UNDYED = '#8A7F70'

/** One of those that dye: `key` finds it again. */
export interface Dyed {
  key: string
  name: string
  dye: string
}
export const NONE = ''

interface Terms {
  by: ViewBody['dyed']
  sources: readonly Source[]
  people: readonly { id: string; name: string }[]
  categories: readonly Category[]
}

const KIND_NAMES: Record<EventKind | 'task', string> = {
  task: 'tasks',
  meeting: 'meetings',
  'task block': 'time for tasks',
  batch: 'batches',
  focus: 'focus',
  break: 'breaks',
  travel: 'travel',
  other: 'other events',
}
const KIND_DYES: Record<EventKind | 'task', string> = {
  task: '#8C6A00',
  meeting: '#1C6C77',
  'task block': '#6B5B2E',
  batch: '#75498A',
  focus: '#4E6B35',
  break: '#A23B66',
  travel: '#A43E2A',
  other: '#44566C',
}

export function dyedBy({ by, sources, people, categories }: Terms): (item: ClothItem) => Dyed[] {
  const names = new CategoryNames(categories)
  const nothing = (name: string): Dyed[] => [{ key: NONE, name, dye: UNDYED }]
  switch (by) {
    case 'source': {
      const byId = new Map(sources.map(s => [s.id, { key: s.id, name: s.name, dye: s.dye }]))
      return item => item.sources.map(id => byId.get(id) ?? { key: id, name: '', dye: '#44566C' })
    }
    case 'category':
      return item => {
        const found = item.categories
          .filter(c => !isOurMark(c))
          .map(name => ({ key: name, name, dye: names.of(name)?.dye ?? dyeFor(name) }))
        return found.length > 0 ? found : nothing('no category')
      }
    case 'person':
      return item => {
        const found = item.people.flatMap(id => {
          const person = people.find(p => p.id === id)
          return person ? [{ key: id, name: person.name, dye: dyeFor(person.name) }] : []
        })
        return found.length > 0 ? found : nothing('nobody')
      }
    case 'kind':
      return item => {
        const kind = item.kind === 'task' || item.kind === 'tied' ? 'task' : item.eventKind
        return [{ key: kind, name: KIND_NAMES[kind], dye: KIND_DYES[kind] }]
      }
  }
}
