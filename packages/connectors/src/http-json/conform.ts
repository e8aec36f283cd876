import { newTask, type Task, type TaskPatch, type When } from '@loom/core'
import {
  type Connector,
  type DeltaPage,
  type RemoteItem,
  ServiceError,
  type WriteResult,
} from '../connector.ts'

/** Tries a description against its service and reports what works. */

export interface Check {
  what: string
  /** `not-offered`: the description does not claim it. */
  outcome: 'works' | 'fails' | 'not-offered'
  detail: string
}

export interface Conformance {
  checks: Check[]
  /** In which list a trial item was made and removed; null when nothing was written. */
  triedIn: string | null
}

class Failure extends Error {}
const expect = (holds: boolean, words: string): void => {
  if (!holds) throw new Failure(words)
}

async function pages(connector: Connector, collection: string, token: string | null): Promise<DeltaPage[]> {
  const all: DeltaPage[] = []
  for await (const page of connector.delta(collection, token)) all.push(page)
  return all
}

const itemIn = (result: WriteResult | undefined): RemoteItem => {
  if (result?.kind === 'done' && result.item) return result.item
  if (result?.kind === 'refused') throw new Failure(result.reason)
  if (result?.kind === 'retry') throw result.error
  throw new Failure(`The service answered “${result?.kind ?? 'nothing'}”.`)
}

/**
 * With `collection`, one item is made there, changed in every way the description claims, and deleted
 * again; without, nothing is written.
 */
export async function conform(
  connector: Connector,
  collection: string | null,
  uid: string,
): Promise<Conformance> {
  const checks: Check[] = []
  const { can, canHold } = connector.capabilities
  let dead = false
  const check = async (what: string, offered: boolean, work: () => Promise<string>): Promise<void> => {
    if (!offered || dead) {
      checks.push({ what, outcome: 'not-offered', detail: dead ? 'Not tried after what failed before.' : '' })
      return
    }
    try {
      checks.push({ what, outcome: 'works', detail: await work() })
    } catch (error) {
      if (!(error instanceof Failure) && !(error instanceof ServiceError)) throw error
      checks.push({ what, outcome: 'fails', detail: error.message })
    }
  }
  const needed = (): void => {
    dead = checks.at(-1)?.outcome === 'fails'
  }

  let first = collection
  await check('Sign-in and lists', true, async () => {
    const account = await connector.discover()
    const open = account.collections.filter(c => !c.whyNot)
    expect(open.length > 0, 'It shows no list that may be read.')
    first ??= open[0]?.remoteId ?? null
    return `${account.name || 'Somebody'}: ${open.length} lists, ${account.people.length} people.`
  })
  needed()
  let token: string | null = null
  await check('Listing', true, async () => {
    const all = await pages(connector, first ?? '', null)
    const items = all.flatMap(p => p.items)
    const problems = all.flatMap(p => p.problems)
    token = all.at(-1)?.token ?? null
    expect(token !== null, 'Its last page gives nothing to ask for changes with.')
    expect(problems.length === 0, `${problems.length} items are not understood: ${problems[0]?.reason ?? ''}`)
    expect(
      items.every(i => (i.item as Task).summary !== ''),
      'Some items have no title.',
    )
    expect(new Set(items.map(i => i.remoteId)).size === items.length, 'Some items are listed twice.')
    const unknown = [...new Set(items.flatMap(i => i.unknownStatus ?? []))]
    expect(unknown.length === 0, `These statuses are not in the description: ${unknown.join(', ')}.`)
    return `${items.length} items on ${all.length} ${all.length === 1 ? 'page' : 'pages'}.`
  })
  needed()
  await check('Reading one', true, async () => {
    const [some] = (await pages(connector, first ?? '', null)).flatMap(p => p.items)
    if (!some) return 'The list is empty; nothing to read.'
    const read = await connector.read(first ?? '', some.remoteId)
    expect(read.kind === 'found', 'A listed item cannot be read by its id.')
    expect(
      read.kind === 'found' && read.item.revision === some.revision,
      'Read alone, it has another revision.',
    )
    return ''
  })

  const writes = collection !== null
  const at: When = { kind: 'zoned', local: '2030-05-06T10:30:00', zone: 'UTC' }
  const day: When = { kind: 'date', date: '2030-05-09' }
  let made: RemoteItem | null = null
  await check('Making an item', writes && can.create, async () => {
    const item = newTask(uid, { summary: 'Trial of a description' })
    const [result] = await connector.write([
      { op: 'create', collection: collection ?? '', item, triedAgoMs: null },
    ])
    made = itemIn(result)
    const [again] = await connector.write([
      { op: 'create', collection: collection ?? '', item, triedAgoMs: 60_000 },
    ])
    const second = itemIn(again)
    expect(second.remoteId === made.remoteId, 'Asked twice, it made two.')
    return 'Asked twice, it made one.'
  })
  const change = (
    what: string,
    offered: boolean,
    patch: TaskPatch,
    same: (task: Task) => boolean,
  ): Promise<void> =>
    check(what, writes && made !== null && offered, async () => {
      if (!made) throw new Failure('There is no item to try it on.')
      const { remoteId, revision } = made
      const [result] = await connector.write([
        { op: 'patch', collection: collection ?? '', remoteId, revision, patch },
      ])
      made = itemIn(result)
      expect(same(made.item as Task), 'It says that it did, but what it returns is something else.')
      return ''
    })
  await change('Title', can.change, { summary: 'Trial, changed' }, t => t.summary === 'Trial, changed')
  await change(
    'Notes',
    can.change && canHold.notes,
    { description: 'One line.' },
    t => t.description.trim() === 'One line.',
  )
  await change('Plan', can.change && canHold.start, { start: at }, t => t.start !== null)
  await change('Deadline', can.change && canHold.due, { due: day }, t => t.due !== null)
  await change(
    'Estimate',
    can.change && canHold.estimate,
    { estimatedDuration: 240 },
    t => (t.estimatedDuration ?? 0) > 0,
  )
  await change('Completing', can.complete, { status: 'completed' }, t => t.status === 'completed')
  await change(
    'Reopening',
    can.complete,
    { status: 'needs-action' },
    t => t.status !== 'completed' && t.status !== 'cancelled',
  )
  await check('Changes since last time', writes && made !== null, async () => {
    const seen = (await pages(connector, collection ?? '', token)).flatMap(p => p.items.map(i => i.remoteId))
    expect(made !== null && seen.includes(made.remoteId), 'What was changed is not among the changes.')
    return ''
  })
  await check('Refusing a write upon something changed', writes && made !== null && can.change, async () => {
    if (!made) throw new Failure('There is no item to try it on.')
    const { remoteId } = made
    const [result] = await connector.write([
      { op: 'patch', collection: collection ?? '', remoteId, revision: '0', patch: { summary: 'Never' } },
    ])
    expect(result?.kind === 'conflict', 'It wrote although the revision was another.')
    return connector.capabilities.preconditions ? '' : 'Read first; the service itself does not check.'
  })
  await check('Deleting', writes && made !== null && can.delete, async () => {
    if (!made) throw new Failure('There is no item to try it on.')
    const { remoteId, revision } = made
    const [result] = await connector.write([
      { op: 'delete', collection: collection ?? '', remoteId, revision },
    ])
    expect(result?.kind === 'done', `The service answered “${result?.kind ?? ''}”.`)
    expect((await connector.read(collection ?? '', remoteId)).kind === 'absent', 'It is still there.')
    return ''
  })
  return { checks, triedIn: writes && can.create ? collection : null }
}
