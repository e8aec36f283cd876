import type { Task, Event } from '@loom/core'
import type { Connector, DeltaPage, Problem, ReadResult, RemoteItem } from './connector.ts'

/** What no person wrote by hand is not taken in: it is kept aside, listed with the reason, and stops nobody else. */
const MAX_TITLE = 10_000
const MAX_NOTES = 500_000
const MAX_LIST = 1_000
const MAX_WORD = 500
const MAX_ID = 500
/** As much of it is kept as a person needs to recognise it. */
const KEPT = 100_000

function excess(item: Task | Event): string | null {
  if (item.summary.length > MAX_TITLE) return `Its title is ${item.summary.length} characters long.`
  if (item.description.length > MAX_NOTES) return `Its notes are ${item.description.length} characters long.`
  if (item.uid.length > MAX_ID) return 'Its id is longer than any should be.'
  const words = item.kind === 'task' ? [...item.categories, ...item.assignees] : item.categories
  if (words.length > MAX_LIST || words.some(w => w.length > MAX_WORD))
    return 'It has more categories or people, or longer ones, than can be kept.'
  const year = Number((yearOf(item) ?? '2000').slice(0, 4))
  return year < 1 || year > 9999 || Number.isNaN(year) ? 'Its date is outside of any calendar.' : null
}

function yearOf(item: Task | Event): string | null {
  const when = item.kind === 'event' ? item.time.anchor : (item.start ?? item.due)
  return when && (when.kind === 'date' ? when.date : when.local)
}

const shortened = (problem: Problem): Problem => ({
  ...problem,
  remoteId: problem.remoteId.slice(0, MAX_ID),
  original: problem.original.slice(0, KEPT),
})

function judge(item: RemoteItem): Problem | null {
  const { remoteId, revision, original } = item
  const reason = remoteId.length > MAX_ID ? 'Its id is longer than any should be.' : excess(item.item)
  return reason === null ? null : shortened({ remoteId, revision, original, reason })
}

function bounded(page: DeltaPage): DeltaPage {
  const problems = page.problems.map(shortened)
  const items = page.items.filter(item => {
    const problem = judge(item)
    if (problem) problems.push(problem)
    return problem === null
  })
  return { ...page, items, problems }
}

/** The same connector, for what is sensible. */
export function within(connector: Connector): Connector {
  return {
    ...connector,
    async *delta(collection, token, options) {
      for await (const page of connector.delta(collection, token, options)) yield bounded(page)
    },
    async read(collection, remoteId): Promise<ReadResult> {
      const result = await connector.read(collection, remoteId)
      const problem = result.kind === 'found' ? judge(result.item) : null
      return problem ? { kind: 'problem', problem } : result
    },
  }
}
