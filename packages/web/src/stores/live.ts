import { useQueryCache } from '@pinia/colada'
import { useLiveState } from './live-state.ts'
import { say } from './messages.ts'

/** Changes from elsewhere: the stream says what they concern, and what is shown of it is asked for again. */

type Topic = 'cloth' | 'categories' | 'journal' | 'rules' | 'connections' | 'views' | 'team'

interface Change {
  topics: Topic[]
  refused?: { title: string; reason: string }
}

const SETTLE_MS = 30

export function useLive(): { start: () => void; stop: () => void } {
  const cache = useQueryCache()
  const state = useLiveState()
  let source: EventSource | null = null
  let due = new Set<Topic>()
  let timer = 0

  const refresh = (): void => {
    if (state.holding || state.editsUnderway > 0) {
      timer = window.setTimeout(refresh, 100)
      return
    }
    timer = 0
    const topics = due
    due = new Set()
    for (const topic of topics) void cache.invalidateQueries({ key: [topic] })
  }

  const start = (): void => {
    source?.close()
    source = new EventSource('/api/live')
    source.addEventListener('hello', () => {
      // After a gap everything may have changed.
      if (state.stream === 'lost') void cache.invalidateQueries()
      state.stream = 'live'
    })
    source.addEventListener('change', event => {
      const change = JSON.parse(event.data as string) as Change
      for (const topic of change.topics) due.add(topic)
      if (!timer) timer = window.setTimeout(refresh, SETTLE_MS)
      if (change.refused)
        say({ text: `${change.refused.title}: not changed. ${change.refused.reason}`, tone: 'wrong' })
    })
    source.onerror = () => {
      state.stream = 'lost'
    }
  }
  return { start, stop: () => source?.close() }
}
