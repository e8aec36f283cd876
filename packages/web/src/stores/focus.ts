import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { say } from './messages.ts'
import { usePlanning } from './planning.ts'
import { useSession } from './session.ts'

/** Being left alone until a moment: messages that can wait do, and chats are told, where that is wanted. */

/** @param enabled asked for only then */
export function useFocus(enabled: () => boolean = () => true) {
  const session = useSession()
  const { planning, changeOrSay } = usePlanning(enabled)
  const now = ref(session.now())
  useIntervalFn(() => (now.value = session.now()), 15_000)
  const untilMs = computed(() => {
    const until = planning.value.focusUntilMs
    return until !== null && until > now.value ? until : null
  })
  const begin = (until: number): Promise<void> => changeOrSay({ focusUntilMs: until })
  async function end(): Promise<void> {
    const was = planning.value.focusUntilMs
    await changeOrSay({ focusUntilMs: null })
    say({ text: 'Focus is over.', undo: () => void changeOrSay({ focusUntilMs: was }) })
  }
  return { untilMs, begin, end }
}
