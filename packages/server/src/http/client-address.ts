import { getConnInfo } from '@hono/node-server/conninfo'
import type { Context } from 'hono'
import ipaddr from 'ipaddr.js'

/**
 * The source of a request: the other end of its connection or, behind trusted proxies, the last address in
 * X-Forwarded-For that is not a proxy. For IPv6, the network of one customer.
 */
export function clientAddressFor(trusted: readonly string[]): (c: Context) => string {
  const networks = trusted.flatMap(text => {
    const range = text.includes('/') ? text : `${text}/${text.includes(':') ? 128 : 32}`
    return ipaddr.isValidCIDR(range) ? [ipaddr.parseCIDR(range)] : []
  })
  const isTrusted = (text: string): boolean => {
    if (!ipaddr.isValid(text)) return false
    const address = ipaddr.process(text)
    return networks.some(
      ([network, bits]) => network.kind() === address.kind() && address.match(network, bits),
    )
  }
  return c => {
    const passed = (c.req.header('x-forwarded-for') ?? '').split(',').map(part => part.trim())
    let address = getConnInfo(c).remote.address ?? ''
    while (isTrusted(address)) {
      const before = passed.pop()
      if (!before || !ipaddr.isValid(before)) break
      address = before
    }
    return networkOf(address)
  }
}

function networkOf(text: string): string {
  if (!ipaddr.isValid(text)) return text
  const address = ipaddr.process(text)
  return address.kind() === 'ipv6'
    ? `${address.toNormalizedString().split(':').slice(0, 4).join(':')}::/64`
    : address.toString()
}
