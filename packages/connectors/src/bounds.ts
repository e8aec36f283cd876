import { createHash } from 'node:crypto'
import { readItem, type Sighting } from '@loom/core'
import type { Connector, DeltaPage, Problem, ReadResult, RemoteItem } from './connector.ts'

/**
 * The bounds of what every connector takes in. An item that no person would write by hand, or that cannot be
 * stored, is kept aside and listed with the reason. It stops no other item. The lengths are those of the database
 * columns.
 */
const MAX_ID = 500
const MAX_REVISION = 1_000
const MAX_REASON = 2_000
/** As much of it is kept as a person needs to recognise it. */
const KEPT = 100_000

/** Told apart still, where two long ids begin alike. */
const shortId = (id: string): string =>
  id.length <= MAX_ID
    ? id
    : `${id.slice(0, MAX_ID - 30)} ${createHash('sha256').update(id).digest('base64url').slice(0, 27)}`

const shortened = ({ remoteId, revision, reason, original }: Problem): Problem => ({
  remoteId: shortId(remoteId),
  revision: revision.length <= MAX_REVISION ? revision : '',
  reason: reason.slice(0, MAX_REASON),
  original: original.slice(0, KEPT),
})

/** Null for what can be taken in. */
function whyNot({ remoteId, revision, item }: Sighting): string | null {
  if (remoteId.length > MAX_ID) return 'Its id is longer than any should be.'
  if (revision.length > MAX_REVISION) return 'Its revision is longer than any should be.'
  const read = readItem(item)
  return read.kind === 'understood' ? null : read.because
}

function judge(item: RemoteItem): Problem | null {
  const reason = whyNot(item)
  const { remoteId, revision, original } = item
  return reason === null ? null : shortened({ remoteId, revision, original, reason })
}

function bounded(page: DeltaPage): DeltaPage {
  const problems = page.problems.map(shortened)
  const items = page.items.filter(item => {
    const problem = judge(item)
    if (problem) problems.push(problem)
    return problem === null
  })
  // What could be taken in nowhere is nowhere missed.
  return { ...page, items, problems, left: page.left.filter(id => id.length <= MAX_ID) }
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
      if (result.kind === 'problem') return { kind: 'problem', problem: shortened(result.problem) }
      const problem = result.kind === 'found' ? judge(result.item) : null
      return problem ? { kind: 'problem', problem } : result
    },
    locate: async uid => (await connector.locate(uid)).filter(item => whyNot(item) === null),
    // What a service returns of a write of ours, and cannot be kept, is read again instead.
    write: async writes =>
      (await connector.write(writes)).map(result =>
        result.kind === 'done' && result.item && whyNot(result.item) !== null ? { kind: 'conflict' } : result,
      ),
    interpret(collection, original) {
      const found = connector.interpret(collection, original)
      return found && readItem(found.item).kind === 'understood' ? found : null
    },
  }
}
