import { now } from '../clock.ts'
import type { Hook } from '../hooks.ts'
import { Store } from '../store.ts'
import type { Size } from '../weeks.ts'
import { benchSeed } from './seed.ts'

/** What Bench List holds. It knows no length for a task, and a title of 120 characters at most. */
export interface BenchTask {
  id: string
  list: string
  /** The client's own reference, unique in the account: adding it twice adds it once. */
  ref: string | null
  text: string
  details: string
  /** `YYYY-MM-DD`. */
  day: string | null
  /** `HH:MM` in the account's zone; only with a day. */
  hour: string | null
  finish_by: string | null
  /** 1 to 5; 5 presses most. */
  weight: number
  marks: string[]
  /** The task that this one is a part of. */
  part_of: string | null
  /** Ticking moves such a task on to its next day instead. */
  again: 'day' | 'week' | null
  /** How often such a task was ticked. */
  times_done: number
  ticked: boolean
  ticked_at: string | null
  rev: number
  touched: string
  added: string
}

export interface BenchState {
  accounts: Record<string, { name: string; zone: string }>
  /** `within`: the list it lies in. */
  lists: { id: string; account: string; name: string; colour: string; within: string | null }[]
  tasks: Record<string, BenchTask>
  hooks: Hook[]
  /** Which task changed in which list, in order. */
  log: { seq: number; list: string; task: string }[]
  seq: number
}

export type TaskInput = Partial<
  Pick<
    BenchTask,
    | 'text'
    | 'details'
    | 'day'
    | 'hour'
    | 'finish_by'
    | 'weight'
    | 'marks'
    | 'ticked'
    | 'list'
    | 'part_of'
    | 'again'
  >
>

export type Outcome =
  { status: 200 | 201; task: BenchTask } | { status: 204 } | { status: 404 | 412 | 422; error: string }

const DAY = /^\d{4}-\d\d-\d\d$/
const later = (day: string, days: number): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10)
const HOUR = /^([01]\d|2[0-3]):[0-5]\d$/

/** The tasks and the changes that a listing knows of. */
export class Seen {
  constructor(
    readonly tasks: Record<string, BenchTask>,
    private readonly log: BenchState['log'],
  ) {}

  listed(list: string): BenchTask[] {
    return Object.values(this.tasks).filter(t => t.list === list && !t.ticked)
  }

  token(list: string): string {
    return `${list}.${this.log.filter(l => l.list === list).at(-1)?.seq ?? 0}`
  }

  /** Null for a token that was never given out. */
  changedSince(list: string, token: string): string[] | null {
    const [of, seq] = token.split('.')
    if (of !== list || !/^\d+$/.test(seq ?? '')) return null
    return [...new Set(this.log.filter(l => l.list === list && l.seq > Number(seq)).map(l => l.task))]
  }
}

export class Bench {
  readonly store: Store<BenchState>
  /** Told of every change; sends the notifications. */
  onChange: (task: BenchTask) => void = () => undefined
  /** What tasks were before their last changes, oldest first; not kept over a restart. */
  private past: { at: number; seq: number; id: string; was: BenchTask | null }[] = []

  constructor(file: string, size: Size = 'small') {
    this.store = new Store(file, () => benchSeed(size))
  }

  private get state(): BenchState {
    return this.store.value
  }

  /** What listings show: everything as it was at `instant`, epoch ms. Asking by id always shows what is so. */
  seen(instant = now()): Seen {
    const late = this.past.filter(p => p.at > instant)
    const tasks = { ...this.state.tasks }
    for (const { id, was } of late.reverse())
      if (was) tasks[id] = was
      else delete tasks[id]
    const upTo = late.at(-1)?.seq ?? Infinity
    return new Seen(
      tasks,
      this.state.log.filter(l => l.seq <= upTo),
    )
  }

  private remember(id: string): void {
    const was = this.state.tasks[id]
    this.past.push({ at: now(), seq: this.state.seq, id, was: was ? structuredClone(was) : null })
    this.past = this.past.slice(-1000)
  }

  private changed(task: BenchTask, ...lists: string[]): void {
    for (const list of new Set(lists)) this.state.log.push({ seq: ++this.state.seq, list, task: task.id })
    this.store.save()
    this.onChange(task)
  }

  private wrong(input: TaskInput): string | null {
    if (input.text !== undefined && input.text.trim() === '') return 'text: must not be empty'
    if (input.day != null && (!DAY.test(input.day) || Number.isNaN(Date.parse(input.day))))
      return 'day: not a day'
    if (input.hour != null && !HOUR.test(input.hour)) return 'hour: not an hour'
    if (input.weight !== undefined && ![1, 2, 3, 4, 5].includes(input.weight)) return 'weight: 1 to 5'
    if (input.part_of != null && !this.state.tasks[input.part_of]) return 'part_of: no such task'
    if (input.list !== undefined && !this.state.lists.some(l => l.id === input.list))
      return 'list: no such list'
    return null
  }

  private assign(task: BenchTask, input: TaskInput): void {
    const was = task.ticked
    Object.assign(task, input)
    task.text = Array.from(task.text.trim()).slice(0, 120).join('')
    if (task.day === null) task.hour = null
    if (task.ticked && !was && task.again && task.day) {
      task.day = later(task.day, task.again === 'day' ? 1 : 7)
      task.ticked = false
      task.times_done = (task.times_done ?? 0) + 1
    }
    if (task.ticked !== was) task.ticked_at = task.ticked ? new Date(now()).toISOString() : null
    task.rev++
    task.touched = new Date(now()).toISOString()
  }

  private blank(list: string, ref: string | null): BenchTask {
    const at = new Date(now()).toISOString()
    const id = `t${(++this.state.seq).toString(36).padStart(5, '0')}`
    return {
      id,
      list,
      ref,
      text: '',
      details: '',
      day: null,
      hour: null,
      finish_by: null,
      weight: 3,
      marks: [],
      part_of: null,
      again: null,
      times_done: 0,
      ticked: false,
      ticked_at: null,
      rev: 0,
      touched: at,
      added: at,
    }
  }

  add(list: string, input: TaskInput, ref: string | null): Outcome {
    const known = ref && Object.values(this.state.tasks).find(t => t.ref === ref)
    if (known) return { status: 200, task: known }
    const error = this.wrong({ text: '', ...input, list })
    if (error) return { status: 422, error }
    const task = this.blank(list, ref)
    const { id } = task
    this.remember(id)
    this.assign(task, input)
    this.state.tasks[id] = task
    this.changed(task, list)
    return { status: 201, task }
  }

  change(id: string, input: TaskInput, rev: number | null): Outcome {
    const task = this.state.tasks[id]
    if (!task) return { status: 404, error: 'no such task' }
    if (rev !== null && rev !== task.rev) return { status: 412, error: 'the task has changed' }
    const error = this.wrong(input)
    if (error) return { status: 422, error }
    const from = task.list
    this.remember(id)
    this.assign(task, input)
    this.changed(task, from, task.list)
    return { status: 200, task }
  }

  remove(id: string, rev: number | null): Outcome {
    const task = this.state.tasks[id]
    if (!task) return { status: 404, error: 'no such task' }
    if (rev !== null && rev !== task.rev) return { status: 412, error: 'the task has changed' }
    this.remember(id)
    delete this.state.tasks[id]
    this.changed(task, task.list)
    return { status: 204 }
  }
}
