import { now, weekDay } from '../clock.ts'
import { Store } from '../store.ts'

/** What Plant Register holds: registers whose users define the columns, found by their ids alone. */

export type ColumnKind = 'one-of' | 'several' | 'moment' | 'person' | 'yes-no' | 'text'

export interface Column {
  id: string
  /** Its users may rename it at any time. */
  name: string
  kind: ColumnKind
  words: { id: string; word: string }[]
}

export type Cell =
  | { word: string | null }
  | { words: string[] }
  /** Days or local times to the minute; a span has both. */
  | { from: string; to: string | null }
  | { persons: string[] }
  | { yes: boolean }
  | { text: string }

export interface Entry {
  id: string
  register: string
  heading: string
  body: string
  cells: Record<string, Cell | null>
  /** Epoch ms of the last change; told only to ten seconds. */
  amended: number
  entered: number
}

export interface RegisterState {
  persons: { id: string; name: string; mail: string }[]
  registers: { id: string; name: string; columns: Column[] }[]
  entries: Record<string, Entry>
  seq: number
}

const words = (prefix: string, ...all: string[]): Column['words'] =>
  all.map((word, i) => ({ id: `${prefix}${i + 1}`, word }))

export function registerSeed(): RegisterState {
  const state: RegisterState = {
    persons: [
      { id: 'u-anouk', name: 'Anouk Thapa', mail: 'anouk@quillmere.example' },
      { id: 'u-tobias', name: 'Tobias Lund', mail: 'tobias@quillmere.example' },
      { id: 'u-guest', name: 'Herbarium desk', mail: 'desk@herbarium.example' },
    ],
    registers: [
      {
        id: 'plants',
        name: 'Plant work',
        columns: [
          { id: 'k3', name: 'Kind of work', kind: 'one-of', words: words('kw', 'Check', 'Label', 'Loan') },
          {
            id: 'k7',
            name: 'State',
            kind: 'one-of',
            words: words('st', 'Asked', 'Under way', 'Settled', 'Dropped'),
          },
          { id: 'k8', name: 'When', kind: 'moment', words: [] },
          { id: 'k9', name: 'Last day', kind: 'moment', words: [] },
          { id: 'k2', name: 'Keeper', kind: 'person', words: [] },
          { id: 'k5', name: 'Taxa', kind: 'several', words: words('tx', 'Cereus', 'Ipomoea', 'Oenothera') },
          { id: 'k6', name: 'Needs a photograph', kind: 'yes-no', words: [] },
        ],
      },
    ],
    entries: {},
    seq: 0,
  }
  const at = now() - 5 * 86_400_000
  const add = (
    heading: string,
    kind: string,
    st: string,
    cells: Record<string, Cell> = {},
    body = '',
  ): void => {
    const id = `e${++state.seq}`
    state.entries[id] = {
      id,
      register: 'plants',
      heading,
      body,
      cells: { k3: { word: kind }, k7: { word: st }, ...cells },
      amended: at,
      entered: at,
    }
  }
  const by = (...persons: string[]) => ({ k2: { persons } })
  const on = (from: string, to: string | null = null) => ({ k8: { from, to } })
  add('Cereus roots', 'kw1', 'st2', {
    ...by('u-anouk'),
    ...on(`${weekDay(1)}T06:00`, `${weekDay(1)}T07:30`),
    k5: { words: ['tx1'] },
  })
  add('Moonflower germination', 'kw1', 'st1', {
    ...by('u-anouk', 'u-tobias'),
    ...on(weekDay(2)),
    k5: { words: ['tx2'] },
  })
  add('Evening primrose count', 'kw1', 'st1', {
    ...on(weekDay(3), weekDay(4)),
    k5: { words: ['tx3'] },
    k6: { yes: true },
  })
  add('Labels, bed 14', 'kw2', 'st1', { ...by('u-anouk'), k9: { from: weekDay(5), to: null } })
  add('Labels, night beds', 'kw2', 'st3', { ...by('u-tobias') })
  add(
    'Loan 88 to the herbarium',
    'kw3',
    'st2',
    { ...by('u-guest'), k9: { from: weekDay(9), to: null } },
    'Three sheets.',
  )
  add('Loan 91', 'kw3', 'st4')
  return state
}

const OFF_MS = 120_000

export class Register {
  readonly store: Store<RegisterState>

  constructor(file: string) {
    this.store = new Store(file, registerSeed)
  }

  get state(): RegisterState {
    return this.store.value
  }

  /** Its clock is two minutes fast, and tells only tens of seconds. */
  static rounded(ms: number): string {
    return new Date(Math.floor((ms + OFF_MS) / 10_000) * 10_000).toISOString()
  }

  entriesOf(register: string): Entry[] {
    return Object.values(this.state.entries).filter(e => e.register === register)
  }

  put(entry: Entry): Entry {
    entry.amended = now()
    this.state.entries[entry.id] = entry
    this.store.save()
    return entry
  }

  add(register: string, heading: string, body: string, cells: Entry['cells']): Entry {
    const id = `e${++this.state.seq}`
    return this.put({ id, register, heading, body, cells, amended: 0, entered: now() })
  }

  strike(id: string): void {
    delete this.state.entries[id]
    this.store.save()
  }
}
