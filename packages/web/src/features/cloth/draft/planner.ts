import { type Remote, wrap } from 'comlink'
import type { Planner } from './planner.worker.ts'

let one: Promise<Remote<Planner>> | null = null

async function begun(): Promise<Remote<Planner>> {
  const worker = new Worker(new URL('./planner.worker.ts', import.meta.url), { type: 'module' })
  await new Promise<void>((resolve, reject) => {
    worker.addEventListener('message', () => resolve(), { once: true })
    worker.addEventListener('error', () => reject(new Error('The planner did not start.')), { once: true })
  })
  return wrap<Planner>(worker)
}

/** The planner in its worker, which is begun with the first draft; one that did not start is tried again. */
export function planner(): Promise<Remote<Planner>> {
  one ??= begun()
  one.catch(() => (one = null))
  return one
}
