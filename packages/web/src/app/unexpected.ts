import type { App } from 'vue'
import { say } from '../stores/messages.ts'

/** Reports uncaught errors on the page, at most once in a while, and in the browser's console. */

const QUIET_MS = 10_000
let lastAt = -Infinity

function tell(error: unknown): void {
  console.error(error)
  if (performance.now() - lastAt < QUIET_MS) return
  lastAt = performance.now()
  say({
    text: 'Something went wrong on this page. If what you did does not show, try it again.',
    tone: 'wrong',
  })
}

/** A request that was left because the page went elsewhere has nothing to say. */
const isLeft = (error: unknown): boolean => error instanceof DOMException && error.name === 'AbortError'

export function watchForUnexpected(app: App): void {
  app.config.errorHandler = tell
  window.addEventListener('unhandledrejection', ({ reason }) => {
    if (!isLeft(reason)) tell(reason)
  })
}
