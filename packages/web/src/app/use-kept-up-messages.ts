import { computed, watch } from 'vue'
import { useRouter } from 'vue-router'
import { Refused } from '../api/client.ts'
import { type KeptPass, useKeptUp } from '../stores/kept-up.ts'
import { useFocus } from '../stores/focus.ts'
import { say } from '../stores/messages.ts'
import { usePlanning } from '../stores/planning.ts'
import { useSession } from '../stores/session.ts'
import { causeWords, momentWords } from '../ui/kept-up-words.ts'

/** Says once what was moved by itself, all of it together. */
export function useKeptUpMessages(enabled: () => boolean): void {
  const session = useSession()
  const router = useRouter()
  const { planning } = usePlanning(enabled)
  const keepsUp = computed(() => enabled() && planning.value.windows.some(w => w.keepsUp))
  const { passes, saw, undo } = useKeptUp(() => keepsUp.value)
  const focus = useFocus(enabled)
  // Whoever is in focus is told afterwards, all together.
  const news = computed(() =>
    focus.untilMs.value === null ? passes.value.filter(p => !p.seen && !p.undone) : [],
  )
  const told = new Set<string>()

  watch(
    () => news.value.map(p => p.id).join(),
    async () => {
      const fresh = news.value.filter(p => !told.has(p.id))
      if (fresh.length === 0) return
      for (const { id } of fresh) told.add(id)
      tell(fresh)
      try {
        await saw()
      } catch (error) {
        // It is said again when the page is opened next.
        if (!(error instanceof Refused)) throw error
      }
    },
    { immediate: true },
  )

  function tell(fresh: readonly KeptPass[]): void {
    const look = { name: 'Look', run: () => void router.push('/day') }
    const steps = fresh.flatMap(p => p.steps)
    const asks = fresh.flatMap(p => p.asks)
    const [step] = steps
    const [pass] = fresh
    const zone = session.person?.zone ?? 'UTC'
    const moved =
      steps.length === 1 && step
        ? `${step.title} went to ${momentWords(step.to.fromMs, zone)}, as ${causeWords(step.cause)}.`
        : steps.length > 1
          ? `${steps.length} pieces went elsewhere by themselves.`
          : ''
    const asked =
      asks.length === 0 ? '' : asks.length === 1 ? `${asks[0]?.title} needs you.` : `${asks.length} need you.`
    const text = `${moved} ${asked}`.trim()
    if (fresh.length === 1 && pass && asks.length === 0) say({ text, undo: () => void undo(pass.id) })
    else if (text) say({ text, act: look })
  }
}
