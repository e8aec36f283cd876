import type { Chat } from '../connector.ts'
import type { Reader } from './reader.ts'

/** Writing to people, as the description of a service says how. */
export function chatOf({
  client,
  description,
  must,
}: Pick<Reader, 'client' | 'description' | 'must'>): Chat | null {
  const { chat } = description
  if (!chat) return null
  const { post, status, clear, maxLength } = chat
  return {
    maxLength,
    async post(channel, text) {
      await must(client.send(post, { collection: channel, text }))
    },
    say:
      status && clear
        ? async said => {
            if (said === null) await client.send(clear, {})
            else {
              const until = new Date(said.untilMs).toISOString()
              await must(client.send(status, { text: said.text, until }))
            }
          }
        : null,
  }
}
