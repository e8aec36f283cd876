import { ServiceError } from '../connector.ts'
import { addressOf, otherOrigin } from '../outbound.ts'

/**
 * A path of a description, joined below an account's address with `URL`. Text that would name another host stays a
 * path.
 */
function below(address: string, path: string): URL {
  const root = new URL(addressOf(address))
  if (root.username || root.password)
    throw new ServiceError('unreachable', 'The address must not hold a user name or a password.')
  const [at = '', query] = path.split('?', 2)
  const url = new URL(root.origin)
  const joined = `${root.pathname}/${at}`.replace(/\/{2,}/g, '/')
  url.pathname = at === '' ? root.pathname.replace(/\/+$/, '') : joined
  if (query !== undefined) url.search = query
  return url
}

/** The address before every request, without a slash at its end. Throws ServiceError. */
export const baseOf = (address: string, base: string): string => {
  const { origin, pathname } = below(address, base)
  return `${origin}${pathname.replace(/\/+$/, '')}`
}

/**
 * The sign-in address: a path below the account's address, or another server that the person has accepted by name.
 * Throws ServiceError.
 */
export function signInAddress(address: string, given: string, alsoAt: readonly string[]): string {
  if (!/^[a-z][a-z0-9+.-]*:/i.test(given)) return below(address, given).href
  const root = new URL(addressOf(address))
  if (!URL.canParse(given)) throw new ServiceError('refused-address', 'Its sign-in address is none.')
  const url = new URL(given)
  const isOurs = url.origin === root.origin || alsoAt.includes(url.origin)
  if (!/^https?:$/.test(url.protocol) || url.username || url.password)
    throw new ServiceError('refused-address', 'Its sign-in address is none that can be used.')
  if (!isOurs) throw otherOrigin(root, url)
  return url.href
}
