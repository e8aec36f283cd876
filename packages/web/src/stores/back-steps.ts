import type { Edit } from '@loom/core/view'
import { answer, api, Refused } from '../api/client.ts'
import type { BackStep } from './kept-steps.ts'
import { say } from './messages.ts'
import { takeBackDraft, takeBackMade } from './take-back.ts'
import { whenReached } from './unsent.ts'

const edited = ({ key, edit, which }: { key: string; edit: Edit; which?: 'one' }): Promise<unknown> => {
  const param = { key }
  return whenReached(() =>
    which
      ? answer(() => api.cloth[':key'].series.$post({ param, json: { edit, which } }))
      : answer(() => api.cloth[':key'].edit.$post({ param, query: {}, json: edit })),
  )
}

/** Takes back by the server alone: the page that did it is no longer there. A refusal is said. */
export async function runBackStep(step: BackStep): Promise<void> {
  try {
    if (step.do === 'made') await takeBackMade(step.intent, step.title)
    else if (step.do === 'draft') await takeBackDraft(step)
    else if (step.do === 'edits') await Promise.all(step.edits.map(edited))
    else {
      const { key, tasks } = step
      await whenReached(() => answer(() => api.cloth[':key'].batch.$put({ param: { key }, json: { tasks } })))
    }
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: `${step.title}: not taken back. ${error.message}`, tone: 'wrong' })
  }
}
