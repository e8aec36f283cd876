import { createHmac, timingSafeEqual } from 'node:crypto'
import { understoodOr } from '@loom/core'
import type { Connector, RemoteItem } from '../connector.ts'
import { accountOf } from './account.ts'
import { chatOf } from './chat.ts'
import { capabilitiesOf } from './capabilities.ts'
import type { JsonCredentials } from './client.ts'
import type { ServiceDescription } from './description.ts'
import { glanceFor } from './glance.ts'
import { listing } from './listing.ts'
import { textAt } from './pointer.ts'
import { type JsonOptions, reader } from './reader.ts'
import { searchFor } from './search.ts'
import { writer } from './write/writer.ts'

/** Any task manager that a service description tells how to speak to. */
export function httpJson(
  description: ServiceDescription,
  address: string,
  credentials: JsonCredentials,
  options: JsonOptions,
): Connector {
  const parts = reader(description, address, credentials, options)
  const { delta, firstPart } = listing(parts, address)
  /** Ids are kept when an item moves, or the uid is looked for in every list. */
  const locate = async (uid: string): Promise<RemoteItem[]> => {
    const { found, closed } = await searchFor(uid, parts, delta)
    if (closed[0]) throw closed[0].error
    return found
  }
  const write = writer(parts, uid => searchFor(uid, parts, delta))
  const { notifications } = description
  return {
    capabilities: capabilitiesOf(description),
    discover: accountOf(parts, address, credentials.user),
    delta: (collection, token, o = {}) => delta(collection, token, o.cursor ?? null),
    glance: glanceFor(parts, firstPart),
    read: parts.read,
    locate,
    write,
    subscribe: notifications
      ? async (callback, secret) => {
          await parts.client.send(notifications.request, { callback, secret })
        }
      : null,
    notified(body, headers, secret) {
      if (!notifications) return null
      const { header, prefix } = notifications.signature
      const given = Buffer.from(headers(header) ?? '')
      const wanted = Buffer.from(prefix + createHmac('sha256', secret).update(body).digest('hex'))
      if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) return null
      const json = understoodOr((): unknown => JSON.parse(body), undefined)
      const at = Date.parse(textAt(json, notifications.at))
      return { item: textAt(json, notifications.item), at: Number.isNaN(at) ? null : at }
    },
    interpret(collection, original) {
      const result = parts.interpret(collection, original)
      return result?.kind === 'found'
        ? { item: result.item.item, unknownStatus: result.item.unknownStatus ?? null }
        : null
    },
    makeCollection: null,
    chat: chatOf(parts),
    skew: () => parts.client.skew,
    restMs: () => null,
  }
}
