/** Who an account is, so that the same one is recognised whatever way its address is spelt. */

/** Names of this machine. */
const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]'])

/**
 * The account as one text: the service's address and its own id of the account. `at` is an absolute address. A
 * slash at the end of its path, its user, query and fragment do not count.
 */
export function accountSubject(at: string, id = ''): string {
  const { protocol, hostname, port, pathname } = new URL(at)
  const name = hostname.toLowerCase().replace(/\.$/, '')
  const host = LOOPBACK.has(name) ? 'localhost' : name
  const place = `${protocol}//${host}${port ? `:${port}` : ''}${pathname.replace(/\/+$/, '')}`
  return id === '' ? place : `${place}#${id}`
}
