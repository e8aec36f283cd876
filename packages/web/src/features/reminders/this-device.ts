/** Whether this browser can be told something while no page is open, and how it is asked to. */

const SCRIPT = '/service-worker.js'

export type DeviceState = 'possible' | 'denied' | 'impossible'

export const deviceState = (): DeviceState => {
  if (!('serviceWorker' in navigator) || !('PushManager' in window) || !('Notification' in window))
    return 'impossible'
  return Notification.permission === 'denied' ? 'denied' : 'possible'
}

/** For the list of devices, as their person would say it. */
export function deviceWords(agent = navigator.userAgent): string {
  const [, browser = 'Browser'] = /(Firefox|Edg|Chrom(?:e|ium)|Safari)/.exec(agent) ?? []
  const [, system = ''] = /(Android|iPhone|iPad|Windows|Mac OS|Linux)/.exec(agent) ?? []
  const name = browser === 'Edg' ? 'Edge' : browser
  return system === '' ? name : `${name} on ${system === 'Mac OS' ? 'a Mac' : system}`
}

/** Throws in a sentence where its person or the browser does not want it. @param key the sender's, base64url */
export async function subscribeHere(key: string): Promise<PushSubscriptionJSON> {
  if ((await Notification.requestPermission()) !== 'granted')
    throw new Error(
      'This browser was told not to show messages of this page. Its settings for the page change that.',
    )
  await navigator.serviceWorker.register(SCRIPT)
  const worker = await navigator.serviceWorker.ready
  const known = await worker.pushManager.getSubscription()
  // Asked for by another installation at this address: that one's key is of no use.
  if (known && keyOf(known) !== key) await known.unsubscribe()
  try {
    return (await worker.pushManager.subscribe({ userVisibleOnly: true, applicationServerKey: key })).toJSON()
  } catch {
    throw new Error(
      'This browser’s message service cannot be reached from here. Reminders still come in the page and by mail.',
    )
  }
}

const keyOf = ({ options }: PushSubscription): string =>
  btoa(String.fromCharCode(...new Uint8Array(options.applicationServerKey ?? new ArrayBuffer(0))))
    .replaceAll('+', '-')
    .replaceAll('/', '_')
    .replaceAll('=', '')

export async function unsubscribeHere(): Promise<void> {
  const worker = await navigator.serviceWorker.getRegistration()
  await (await worker?.pushManager.getSubscription())?.unsubscribe()
}
