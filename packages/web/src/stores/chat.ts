import { useQuery } from '@pinia/colada'
import { computed } from 'vue'
import { answer, api } from '../api/client.ts'

/** Chats that the person who is signed in has connected, and what is written there for them. */

type Query = Parameters<typeof api.chat.told.$get>[0]['query']
export type ToldLevel = Query['level']

/** What is to be told: whose days, or those of one list. */
export interface DaysToTell {
  from: string
  days: number
  of: { person: string } | { list: string }
  /** As a heading names it. */
  name: string
}

/** Under the key of connections: it is asked for again when those change. */
export function useChats(enabled: () => boolean = () => true) {
  const query = useQuery({
    key: ['connections', 'chats'],
    query: () => answer(() => api.chat.$get()),
    enabled,
  })
  return { chats: computed(() => query.data.value?.chats ?? []) }
}

/** Throws Refused. */
export async function tellDays({ from, days, of }: DaysToTell, level: ToldLevel): Promise<string> {
  const { text } = await answer(() =>
    api.chat.told.$get({ query: { from, days: String(days), level, ...of } }),
  )
  return text
}

/** Throws Refused. */
export const sendMessage = (chat: string, channel: string, text: string): Promise<unknown> =>
  answer(() => api.chat.messages.$post({ json: { chat, channel, text } }))
