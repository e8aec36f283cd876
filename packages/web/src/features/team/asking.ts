import { type ClothItem, type Level, LEVEL_WORDS } from '@loom/core/view'
import type { InferResponseType } from 'hono/client'
import { answer, api, Refused } from '../../api/client.ts'
import { say } from '../../stores/messages.ts'

/** Asking others for what one may not do oneself. */

export type Requests = InferResponseType<typeof api.requests.$get, 200>
export type Request = Requests['forMe'][number]

async function withdraw(id: string): Promise<void> {
  try {
    await answer(() => api.requests[':id'].$delete({ param: { id } }))
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: `Not withdrawn. ${error.message}`, tone: 'wrong' })
  }
}

async function ask(json: Parameters<typeof api.requests.$post>[0]['json'], said: string): Promise<void> {
  try {
    const { id } = await answer(() => api.requests.$post({ json }))
    say({ text: said, undo: () => void withdraw(id) })
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: `Not asked. ${error.message}`, tone: 'wrong' })
  }
}

/** Whoever looks after its list is asked to hand it on. */
export const askToGive = (item: ClothItem, to: { id: string; name: string }): Promise<void> =>
  ask(
    { ask: 'give', key: item.key, to: to.id },
    `Asked that “${item.title}” be given to ${to.name}. Whoever looks after its list decides.`,
  )

export type SeeMore = { list: string; name: string } | { person: string; name: string }
export type AskedLevel = Extract<Level, 'title' | 'everything' | 'change'>

export const askToSee = (of: SeeMore, level: AskedLevel): Promise<void> =>
  ask(
    'list' in of ? { ask: 'see', list: of.list, level } : { ask: 'see', person: of.person, level },
    `Asked for ${of.name}: ${LEVEL_WORDS[level].name}.`,
  )
