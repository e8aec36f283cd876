import { dayWords, type HourRow, type ViewBody } from '@loom/core/view'
import { ref } from 'vue'
import { type DaysToTell, useChats } from '../../stores/chat.ts'

/** Sending a row of the Cloth to a chat: a day of oneself, of a colleague, or of a list. */
export function useSendRow(rows: () => ViewBody['rows'], me: () => string) {
  const { chats } = useChats()
  const sending = ref<DaysToTell | null>(null)
  const whoseOf = ({ key }: HourRow): string => key.split(' ')[0] ?? ''
  function send(row: HourRow): void {
    const whose = whoseOf(row)
    const of = rows() === 'sources' ? { list: whose } : { person: whose === 'all' ? me() : whose }
    const day = dayWords(row.date)
    sending.value = { from: row.date, days: 1, of, name: row.title ? `${row.title}, ${day}` : day }
  }
  return {
    sending,
    send,
    /** What is nobody's is nobody's day. */
    canSend: (row: HourRow): boolean => chats.value.length > 0 && whoseOf(row) !== 'nobody',
  }
}
