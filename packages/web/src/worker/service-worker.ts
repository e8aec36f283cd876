/// <reference lib="webworker" />

/**
 * What the browser runs for us while no page is open: it shows what is pushed to it, leads to what was shown, and puts
 * it off.
 */
declare const self: ServiceWorkerGlobalScope
export {}

interface Told {
  title: string
  body: string
  tag: string
  to: string
  reminder: string | null
}

const LATER_MS = 5 * 60_000

/** What cannot be read is shown all the same: a browser takes back what shows nothing when it is pushed. */
function toldBy(event: PushEvent): Told {
  const plain: Told = {
    title: 'Amber Loom',
    body: 'Something is coming up.',
    tag: 'loom',
    to: '/day',
    reminder: null,
  }
  try {
    return { ...plain, ...(event.data?.json() as Partial<Told>) }
  } catch {
    return plain
  }
}

self.addEventListener('install', () => void self.skipWaiting())
self.addEventListener('activate', event => event.waitUntil(self.clients.claim()))

self.addEventListener('push', event => {
  const { title, body, tag, to, reminder } = toldBy(event)
  const actions = reminder === null ? [] : [{ action: 'later', title: 'In 5 minutes' }]
  const options = {
    body,
    tag,
    icon: '/icon-192.png',
    badge: '/badge-96.png',
    data: { to, reminder },
    actions,
  }
  event.waitUntil(self.registration.showNotification(title, options))
})

self.addEventListener('notificationclick', event => {
  const { to, reminder } = event.notification.data as Pick<Told, 'to' | 'reminder'>
  event.notification.close()
  event.waitUntil(event.action === 'later' && reminder !== null ? later(reminder) : lead(to))
})

async function later(reminder: string): Promise<void> {
  const answer = await fetch(`/api/reminders/${encodeURIComponent(reminder)}/later`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ againAt: Date.now() + LATER_MS }),
  }).catch(() => null)
  // Signed out, or no connection: nobody is to think that it comes again.
  if (!answer?.ok)
    await self.registration.showNotification('Not put off', {
      body: 'Open Amber Loom to put it off.',
      data: { to: '/day', reminder: null },
    })
}

async function lead(to: string): Promise<void> {
  const pages = await self.clients.matchAll({ type: 'window' })
  const [page] = pages
  if (!page) return void (await self.clients.openWindow(to))
  await page.focus()
  page.postMessage({ go: to })
}
