import { answer, api, Refused } from '../api/client.ts'
import type { BackStep } from './kept-steps.ts'
import { whenReached } from './unsent.ts'
import { say } from './messages.ts'

/** What there was no room for where it went. */
export const lostWords = (lost: readonly string[]): string =>
  lost.length === 0 ? '' : ` Not supported there: ${lost.join(' and ')}.`

type DraftStep = Extract<BackStep, { do: 'draft' }>

const LOOK_AGAIN_MS = 400
const MOST_LOOKS = 60

/** Takes back what was made, as soon as its service has it. Returns why it is still there, in words; null if it is not. */
async function tookBack(intent: string): Promise<string | null> {
  try {
    for (let n = 0; n < MOST_LOOKS; n++) {
      const param = { intent }
      const { onItsWay } = await whenReached(() =>
        answer(() => api.cloth.made[':intent']['take-back'].$post({ param })),
      )
      if (!onItsWay) return null
      await new Promise(done => setTimeout(done, LOOK_AGAIN_MS))
    }
    return 'Its service has not taken it yet. It can be deleted once it is there.'
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    return error.message
  }
}

export async function takeBackMade(intent: string, title: string): Promise<void> {
  const why = await tookBack(intent)
  if (why === null) say({ text: `${title}: taken back.` })
  else say({ text: `${title}: not taken back. ${why}`, tone: 'wrong' })
}

/** All that a draft became: what was made is removed, what was planned is as it was. */
export async function takeBackDraft({
  title,
  made,
  edits,
  asked = [],
}: Omit<DraftStep, 'do'>): Promise<void> {
  const refused = async (act: () => Promise<unknown>): Promise<string | null> => {
    try {
      await whenReached(act)
      return null
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      return error.message
    }
  }
  const edited = ({ key, edit }: DraftStep['edits'][number]): Promise<string | null> =>
    refused(() => answer(() => api.cloth[':key'].edit.$post({ param: { key }, query: {}, json: edit })))
  const withdrawn = (id: string): Promise<string | null> =>
    refused(() => answer(() => api.requests[':id'].$delete({ param: { id } })))
  const whys = await Promise.all([...made.map(tookBack), ...edits.map(edited), ...asked.map(withdrawn)])
  const [first, ...more] = whys.filter(why => why !== null)
  if (first === undefined) say({ text: `${title}: taken back.` })
  else
    say({
      text: `${title}: taken back but for ${more.length + 1} of ${whys.length}. ${first}`,
      tone: 'wrong',
    })
}
