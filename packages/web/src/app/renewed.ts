import type { Router } from 'vue-router'
import { say } from '../stores/messages.ts'

/**
 * Handles a server that was updated while a page is open, and no longer has the parts that the page loads later.
 * Opening another view loads the new page; somebody who stays is told, so that nothing is lost.
 */
export function watchForRenewal(router: Router): void {
  let gone = false
  window.addEventListener('vite:preloadError', () => {
    gone = true
    say({
      text: 'There is a new version of Amber Loom: reload to use it.',
      stays: true,
      act: { name: 'Load it anew', run: () => window.location.reload() },
    })
  })
  router.onError((_error, to, from) => {
    // A page that was opened just now and lacks something would be opened for ever.
    if (gone && from.matched.length > 0) window.location.assign(to.fullPath)
  })
}
