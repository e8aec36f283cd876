import { useQueryCache } from '@pinia/colada'
import { useLiveState } from './live-state.ts'
import { answer, api, Refused } from '../api/client.ts'
import { say, useMessages } from './messages.ts'
import { useSession } from './session.ts'

/** Changes from elsewhere: the stream says what they concern, and what is shown of it is asked for again. */

type Topic =
  | 'cloth'
  | 'categories'
  | 'journal'
  | 'rules'
  | 'connections'
  | 'views'
  | 'team'
  | 'reminders'
  | 'invitations'

interface Change {
  topics: Topic[]
  refused?: { title: string; reason: string }
}

const SETTLE_MS = 30
const AGAIN_MS = 3000

/** Drops everything that the page holds. */
const leaveAll = (to: string): void => {
  useMessages().forgetUndo()
  window.location.assign(to)
}

export function useLive(): { start: () => void; stop: () => void } {
  const cache = useQueryCache()
  const state = useLiveState()
  const session = useSession()
  let source: EventSource | null = null
  let due = new Set<Topic>()
  let timer = 0
  let again = 0

  const refresh = (): void => {
    if (state.holding || state.editsUnderway > 0) {
      timer = window.setTimeout(refresh, 100)
      return
    }
    timer = 0
    const topics = due
    if (topics.has('team')) void lookAtOurselves()
    due = new Set()
    for (const topic of topics) void cache.invalidateQueries({ key: [topic] })
  }

  /** Our own role may be another one. */
  async function lookAtOurselves(): Promise<void> {
    const before = session.person?.role
    await session.restore()
    if (before !== undefined && session.person?.role !== before) leaveAll('/cloth')
  }
  const start = (): void => {
    source?.close()
    source = new EventSource('/api/live')
    source.addEventListener('ended', () => {
      stop()
      leaveAll('/sign-in')
    })
    source.addEventListener('hello', event => {
      const here = session.person?.workspaceId
      // Another page of this browser has gone to another workspace: nothing of this one is to mix with it.
      if (here !== undefined && event.data !== here) return leaveAll('/cloth')
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
      if (source?.readyState === EventSource.CLOSED) void comeBack()
    }
  }
  const stop = (): void => {
    window.clearTimeout(again)
    source?.close()
  }
  /** The browser does not try again by itself what was refused. Whoever has to sign in is asked to. */
  async function comeBack(): Promise<void> {
    try {
      await answer(() => api.session.$get())
      start()
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      again = window.setTimeout(() => void comeBack(), AGAIN_MS)
    }
  }
  return { start, stop }
}
