import type { Router } from 'vue-router'
import { say } from '../stores/messages.ts'

/**
 * The server may be renewed while a page of before is open. A part of that page which is fetched only now is there no
 * longer: whoever goes to another view gets it from the new page, and whoever stays is told, so that nothing is lost.
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
