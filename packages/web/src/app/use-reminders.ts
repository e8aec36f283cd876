import { isDue, isInMeeting, type Reminder } from '@loom/core/view'
import { useIntervalFn } from '@vueuse/core'
import { watch } from 'vue'
import { useRouter } from 'vue-router'
import { answer, api, Refused } from '../api/client.ts'
import { say } from '../stores/messages.ts'
import { usePlanning } from '../stores/planning.ts'
import { useSession } from '../stores/session.ts'

/** Reminds whoever wants it to plan the day and to look back upon it: in the page, and by the browser where it may. */

const LOOK_MS = 20_000
const KEY = 'loom-reminded'
const SAYS: Record<Reminder, string> = {
  plan: 'Time to plan the day.',
  review: 'Time to look back on the day.',
}

/** On which day each was given last, in this browser; what cannot be read is as if none had been. */
function givenBefore(): Partial<Record<Reminder, string>> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Record<Reminder, string>>
  } catch {
    return {}
  }
}

export function useReminders(enabled: () => boolean): void {
  const session = useSession()
  const router = useRouter()
  const { planning } = usePlanning(enabled)
  let isLooking = false

  async function look(): Promise<void> {
    const { reminders, focusUntilMs } = planning.value
    if (focusUntilMs !== null && focusUntilMs > session.now()) return
    if (isLooking || !enabled() || (reminders.plan === null && reminders.review === null)) return
    const now = session.now()
    const given = givenBefore()
    const zone = session.person?.zone ?? 'UTC'
    // Whether it may be its hour at all is asked before the day is fetched.
    const always = { from: 0, to: 1440, minutes: [1, 1, 1, 1, 1, 1, 1], off: [], zone }
    const kinds = (['plan', 'review'] as const).filter(kind =>
      isDue(kind, reminders, { me: '', now, hours: always, given }),
    )
    if (kinds.length === 0) return
    isLooking = true
    try {
      const from = new Date(now - 86_400_000).toISOString().slice(0, 10)
      const { items, people, me } = await answer(() => api.cloth.$get({ query: { from, days: '3' } }))
      const hours = people.find(p => p.id === me)?.hours
      const terms = hours && { me, now, given, hours: { ...hours, zone } }
      if (!terms || isInMeeting(items as Parameters<typeof isInMeeting>[0], terms)) return
      for (const kind of kinds) if (isDue(kind, reminders, terms)) give(kind, zone, now)
    } catch (error) {
      // Nobody asked for it now: what was refused is tried again in a moment.
      if (!(error instanceof Refused)) throw error
    } finally {
      isLooking = false
    }
  }

  function give(kind: Reminder, zone: string, now: number): void {
    const today = new Date(now).toLocaleDateString('sv-SE', { timeZone: zone })
    localStorage.setItem(KEY, JSON.stringify({ ...givenBefore(), [kind]: today }))
    const run = (): void => void router.push('/day')
    say({ text: SAYS[kind], stays: true, act: { name: 'Open Day', run } })
    if (!('Notification' in window) || Notification.permission !== 'granted') return
    const shown = new Notification('Amber Loom', { body: SAYS[kind], tag: `loom-${kind}` })
    shown.onclick = () => {
      window.focus()
      run()
    }
  }
  useIntervalFn(() => void look(), LOOK_MS)
  watch(
    () => planning.value.reminders,
    () => void look(),
    { immediate: true },
  )
}
