import type { ClothItem } from '@loom/core/view'
import { onBeforeUnmount, type Ref, watchEffect } from 'vue'
import { useSession } from '../../../stores/session.ts'
import { clockWords } from '../../../ui/telling.ts'

/** What is now and what comes next, in the title of the page: it is read while another page is in front. */

interface Timed {
  item: ClothItem
  startMs: number
  endMs: number
}

const MOST_LETTERS = 40
const short = (title: string): string =>
  title.length > MOST_LETTERS ? `${title.slice(0, MOST_LETTERS - 1)}…` : title

/** Chromium and others show a number on the icon of an installed page: here minutes until what comes next. */
type Badged = Navigator & {
  setAppBadge?: (n: number) => Promise<void>
  clearAppBadge?: () => Promise<void>
}
const NEAR_MS = 30 * 60_000

export function useNowTitle(
  current: Readonly<Ref<Timed | null>>,
  next: Readonly<Ref<Timed | null>>,
  zone: () => string,
): void {
  const session = useSession()
  const usual = document.title
  const { setAppBadge, clearAppBadge } = navigator as Badged
  // What does not work there is no loss: the title says it as well.
  const badge = (minutes: number | null): void =>
    void (minutes === null ? clearAppBadge?.call(navigator) : setAppBadge?.call(navigator, minutes))?.catch(
      () => undefined,
    )
  watchEffect(() => {
    const [now, then] = [current.value, next.value]
    const words = [
      now && `${short(now.item.title)} until ${clockWords(now.endMs, zone())}`,
      then && `${now ? 'then' : 'next'} ${clockWords(then.startMs, zone())} ${short(then.item.title)}`,
    ].filter(Boolean)
    document.title = words.length > 0 ? `${words.join(', ')} · Amber Loom` : usual
    const until = then ? then.startMs - session.now() : Infinity
    badge(until > 0 && until <= NEAR_MS ? Math.ceil(until / 60_000) : null)
  })
  onBeforeUnmount(() => {
    document.title = usual
    badge(null)
  })
}
