import { now, weekDay } from '../clock.ts'
import type { Hook } from '../hooks.ts'
import { Store } from '../store.ts'

/** What Repairs Board holds: crews, the stages each has named, and their work orders. */

export interface Stage {
  code: string
  label: string
  /** Work orders in it are off the board's open list. */
  shut: boolean
}

export interface Crew {
  no: string
  title: string
  shade: string
  stages: Stage[]
  /** Account numbers of who may see it. */
  seen_by: number[]
}

export interface Order {
  number: string
  crew: string
  title: string
  text: string
  stage: string
  urgency: 'whenever' | 'soon' | 'at once'
  /** `YYYY-MM-DD`; the board knows no hours. */
  deadline: string | null
  half_days: number | null
  /** Account numbers. */
  for: number[]
  linked: string[]
  changed: string
  opened: string
}

export interface BoardState {
  people: { account_no: number; name: string; mail: string }[]
  crews: Crew[]
  orders: Record<string, Order>
  next: number
  hooks: Hook[]
  codes: Record<string, { account: number; challenge: string; redirect: string; until: number }>
  tokens: Record<string, { account: number; until: number }>
  refresh: Record<string, number>
}

export type OrderInput = Partial<
  Pick<Order, 'title' | 'text' | 'urgency' | 'deadline' | 'half_days' | 'for' | 'linked'>
>

const stages = (...named: [string, string, boolean?][]): Stage[] =>
  named.map(([code, label, shut = false]) => ({ code, label, shut }))

export function boardSeed(): BoardState {
  const state: BoardState = {
    people: [
      { account_no: 1007, name: 'Ines Varga', mail: 'ines@quillmere.example' },
      { account_no: 1012, name: 'Bram Castelijn', mail: 'bram@quillmere.example' },
      { account_no: 1019, name: 'T. Lund', mail: 'tobias@quillmere.example' },
      { account_no: 1044, name: 'Fenwick Heating', mail: 'desk@fenwick-heating.example' },
    ],
    crews: [
      {
        no: 'c-glass',
        title: 'Glasshouse crew',
        shade: '#1C6C77',
        seen_by: [1007, 1012, 1019],
        stages: stages(
          ['g1', 'Noted'],
          ['g2', 'Parts ordered'],
          ['g3', 'Hands on it'],
          ['g4', 'Fixed', true],
          ['g5', 'Not worth it', true],
        ),
      },
      {
        no: 'c-paths',
        title: 'Paths and gates',
        shade: '#8C6A00',
        seen_by: [1007, 1012],
        stages: stages(['p1', 'Wish'], ['p2', 'Out there'], ['p3', 'Done and swept', true]),
      },
      {
        no: 'c-private',
        title: 'Contracts',
        shade: '#44566C',
        seen_by: [1012],
        stages: stages(['k1', 'Open'], ['k2', 'Closed', true]),
      },
    ],
    orders: {},
    next: 1040,
    hooks: [],
    codes: {},
    tokens: {},
    refresh: {},
  }
  const at = new Date(now() - 4 * 86_400_000).toISOString()
  const add = (crew: string, stage: string, title: string, rest: Partial<Order> = {}): string => {
    const number = `W-${++state.next}`
    state.orders[number] = {
      number,
      crew,
      stage,
      title,
      text: '',
      urgency: 'soon',
      deadline: null,
      half_days: null,
      for: [],
      linked: [],
      changed: at,
      opened: at,
      ...rest,
    }
    return number
  }
  const vent = add('c-glass', 'g2', 'Vent motor, House 3', {
    urgency: 'at once',
    deadline: weekDay(1),
    half_days: 1,
    for: [1012],
  })
  add('c-glass', 'g1', 'Second vent motor, House 3', { linked: [vent], half_days: 1 })
  add('c-glass', 'g3', 'Mist line, House 2', { deadline: weekDay(3), half_days: 2, for: [1012, 1019] })
  add('c-glass', 'g1', 'Cracked pane above the cacti', {
    urgency: 'at once',
    deadline: weekDay(-1),
    for: [1012],
    text: 'Tape holds it for now.',
  })
  add('c-glass', 'g4', 'Shelf brackets, House 1', { deadline: weekDay(-4), for: [1019] })
  add('c-glass', 'g5', 'Old thermostat', { urgency: 'whenever' })
  add('c-glass', 'g1', 'Boiler, yearly look', { deadline: weekDay(18), half_days: 3, for: [1044] })
  add('c-paths', 'p1', 'Gravel by the night beds', { deadline: weekDay(11), half_days: 4, for: [1012] })
  add('c-paths', 'p2', 'Lower gate hinge', {
    urgency: 'at once',
    deadline: weekDay(2),
    half_days: 1,
    for: [1012],
  })
  add('c-paths', 'p1', 'Handrail, moss steps', { deadline: weekDay(16), for: [1007] })
  add('c-paths', 'p3', 'Leaves, main walk', { for: [1012] })
  add('c-private', 'k1', 'Lift contract', { for: [1012] })
  return state
}

export class Board {
  readonly store: Store<BoardState>
  /** Told of every change. */
  onChange: (order: string) => void = () => undefined

  constructor(file: string) {
    this.store = new Store(file, boardSeed)
  }

  get state(): BoardState {
    return this.store.value
  }

  crewsOf(account: number): Crew[] {
    return this.state.crews.filter(c => c.seen_by.includes(account))
  }

  ordersOf(crew: string): Order[] {
    return Object.values(this.state.orders)
      .filter(o => o.crew === crew)
      .sort((x, y) => x.number.localeCompare(y.number, 'en', { numeric: true }))
  }

  isShut(order: Order): boolean {
    return (
      this.state.crews.find(c => c.no === order.crew)?.stages.find(s => s.code === order.stage)?.shut ?? false
    )
  }

  private touched(order: Order): Order {
    order.changed = new Date(now()).toISOString()
    this.store.save()
    this.onChange(order.number)
    return order
  }

  add(crew: Crew, input: OrderInput): Order {
    const number = `W-${++this.state.next}`
    const at = new Date(now()).toISOString()
    const order: Order = {
      number,
      crew: crew.no,
      title: 'Work order',
      text: '',
      stage: crew.stages[0]?.code ?? '',
      urgency: 'soon',
      deadline: null,
      half_days: null,
      for: [],
      linked: [],
      changed: at,
      opened: at,
      ...input,
    }
    this.state.orders[number] = order
    return this.touched(order)
  }

  change(order: Order, input: OrderInput): Order {
    return this.touched(Object.assign(order, input))
  }

  stage(order: Order, code: string): Order | null {
    if (!this.state.crews.find(c => c.no === order.crew)?.stages.some(s => s.code === code)) return null
    order.stage = code
    return this.touched(order)
  }

  /** Another crew, another number: the old one is no longer there. */
  move(order: Order, crew: Crew): Order {
    const was = order.number
    delete this.state.orders[was]
    order.number = `W-${++this.state.next}`
    order.crew = crew.no
    order.stage = crew.stages[0]?.code ?? ''
    for (const other of Object.values(this.state.orders))
      other.linked = other.linked.map(l => (l === was ? order.number : l))
    this.state.orders[order.number] = order
    this.onChange(was)
    return this.touched(order)
  }

  remove(order: Order): void {
    delete this.state.orders[order.number]
    this.store.save()
    this.onChange(order.number)
  }
}
