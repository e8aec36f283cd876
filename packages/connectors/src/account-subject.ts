/** Who an account is, so that the same one is recognised whatever way its address is spelt. */

/** Names of this machine. */
const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]'])

/**
 * The service's place and its own id of the account, as one text. `at` is an absolute address; its path counts only
 * without a slash at its end, its user, query and fragment not at all.
 */
export function accountSubject(at: string, id = ''): string {
  const { protocol, hostname, port, pathname } = new URL(at)
  const name = hostname.toLowerCase().replace(/\.$/, '')
  const host = LOOPBACK.has(name) ? 'localhost' : name
  const place = `${protocol}//${host}${port ? `:${port}` : ''}${pathname.replace(/\/+$/, '')}`
  return id === '' ? place : `${place}#${id}`
}
