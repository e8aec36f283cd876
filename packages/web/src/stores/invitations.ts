import { useQuery, useQueryCache } from '@pinia/colada'
import type { InferResponseType } from 'hono/client'
import { computed } from 'vue'
import { answer, api } from '../api/client.ts'

/** Invitations that came to the person who is signed in, and their answers. */

type Told = InferResponseType<typeof api.invitations.$get, 200>
export type Invitation = Told['invitations'][number]
export type Answer = 'accepted' | 'tentative' | 'declined'

const KEY = ['invitations']

/** Whether it waits for its person. */
export const isOpen = ({ answer: said, isAnew, isCalledOff, isKept, namesMe }: Invitation): boolean =>
  isCalledOff ? isKept : namesMe && (said === 'none' || isAnew)

export function useInvitations(enabled: () => boolean = () => true) {
  const cache = useQueryCache()
  const query = useQuery({ key: KEY, query: () => answer(() => api.invitations.$get()), enabled })
  const all = computed(() => query.data.value?.invitations ?? [])
  const anew = (): Promise<unknown> => cache.invalidateQueries({ key: KEY })

  /** Whether whoever invites is told. Throws Refused. */
  async function say(id: string, said: Answer, comment: string): Promise<boolean> {
    const done = await answer(() =>
      api.invitations[':id'].$post({ param: { id }, json: { answer: said, comment } }),
    )
    await Promise.all([anew(), cache.invalidateQueries({ key: ['cloth'] })])
    return done.isTold
  }
  async function putAway(id: string): Promise<void> {
    await answer(() => api.invitations[':id'].$delete({ param: { id } }))
    await anew()
  }
  return {
    all,
    open: computed(() => all.value.filter(isOpen)),
    mails: computed(() => query.data.value?.mails ?? true),
    isThere: computed(() => query.data.value !== undefined),
    trouble: computed(() => query.error.value?.message ?? ''),
    say,
    putAway,
  }
}
