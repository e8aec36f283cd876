import { onBeforeUnmount, onMounted } from 'vue'
import { useRouter } from 'vue-router'
import { useGivenReminders } from '../stores/reminders.ts'

/** What somebody is reminded of in the page; and what they chose of it outside leads here. */
export function useReminders(enabled: () => boolean) {
  const router = useRouter()
  function hear({ data }: MessageEvent<unknown>): void {
    const to = typeof data === 'object' && data !== null && 'go' in data ? data.go : null
    if (typeof to === 'string' && to.startsWith('/')) void router.push(to)
  }
  const workers = 'serviceWorker' in navigator ? navigator.serviceWorker : null
  onMounted(() => workers?.addEventListener('message', hear))
  onBeforeUnmount(() => workers?.removeEventListener('message', hear))
  return useGivenReminders(enabled)
}
