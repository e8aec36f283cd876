import { ServiceError } from '../../connector.ts'
import { type Answer, Changed } from '../client.ts'
import type { Operation } from '../description.ts'
import { valueAt } from '../pointer.ts'
import type { Reader } from '../reader.ts'
import type { Variables } from '../template.ts'

type Step = Operation['steps'][number]

export type Ran =
  /** `raw`: the item as the last step returned it, or as it reads then. */
  { kind: 'done'; raw: unknown; status: number } | { kind: 'conflict' | 'absent' }

/** Sends one step; throws ServiceError where the service breaks off. */
async function send(
  { client }: Reader,
  { ok, when, conflict, item: _item, keep: _keep, ...request }: Step,
  vars: Variables,
): Promise<Answer | 'conflict' | 'absent'> {
  const taken = [...ok, ...conflict].filter(s => s !== 404)
  let answer: Answer | null
  try {
    answer = await client.send(request, vars, {}, taken)
  } catch (error) {
    if (error instanceof Changed) return 'conflict'
    throw error
  }
  if (!answer) return 'absent'
  if (conflict.includes(answer.status)) return 'conflict'
  if (when && valueAt(answer.json, when.at) !== when.is)
    throw new ServiceError('refused', `${client.host} did not confirm it.`)
  return answer
}

/**
 * Runs an operation's steps in order; later steps may use values kept by earlier ones. `readAfter`: the item is
 * read if no step has returned it.
 */
export async function runSteps(
  reader: Reader,
  operation: Operation,
  vars: Variables,
  readAfter = true,
): Promise<Ran> {
  let raw: unknown
  let status = 0
  const kept: Variables = { ...vars }
  for (const step of operation.steps) {
    const answer = await send(reader, step, kept)
    if (typeof answer === 'string') return { kind: answer }
    for (const [name, pointer] of Object.entries(step.keep)) kept[name] = valueAt(answer.json, pointer)
    if (step.item !== undefined) raw = valueAt(answer.json, step.item)
    status = answer.status
  }
  if (raw === undefined && readAfter && kept.id !== undefined) raw = await reader.rawAt(String(kept.id))
  return { kind: 'done', raw, status }
}
