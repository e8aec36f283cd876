import { isKnownZone } from '@loom/core'
import { type Account, type FoundCollection, ServiceError } from '../connector.ts'
import { accountSubject } from '../account-subject.ts'
import { capabilitiesOf } from './capabilities.ts'
import { listAt, textAt, valueAt } from './pointer.ts'
import type { Reader } from './reader.ts'
import { columnsOf, termsOf } from './terms.ts'

/** Who signed in at a described service, who else is there, and which lists it has. `user`: as whom one signed in. */
export function accountOf(
  { client, description, options, must, readCollections }: Reader,
  address: string,
  user: string | undefined,
) {
  const capabilities = capabilitiesOf(description)

  const discover = async (): Promise<Account> => {
    const account = await must(client.send(description.account.request, {}))
    const me = textAt(account.json, description.account.id)
    if (!me) throw new ServiceError('not-this-protocol', client.notThis())
    const zoneThere = description.account.zone ? textAt(account.json, description.account.zone) : ''
    if (description.clock) {
      const at = Date.parse(textAt(account.json, description.clock.at))
      if (!Number.isNaN(at)) client.skew = at - options.now()
    }
    const raws = await readCollections(true)
    const { people } = description
    const everybody = people ? listAt((await must(client.send(people.request, {}))).json, people.items) : []
    const { name: named } = description.account
    const name = named === undefined ? (user ?? '') : textAt(account.json, named)
    return {
      name,
      subject: accountSubject(address, me),
      zone: zoneThere && isKnownZone(zoneThere) ? zoneThere : null,
      collections: raws.flatMap(raw => collectionsIn(raw)),
      people: people
        ? everybody.map(p => ({
            id: textAt(p, people.id),
            name: textAt(p, people.name),
            email: (people.email && textAt(p, people.email)) || null,
            me: textAt(p, people.id) === me,
          }))
        : named === undefined
          ? []
          : [{ id: me, name, email: null, me: true }],
    }
  }

  const collectionsIn = (raw: unknown): FoundCollection[] => {
    const { id, name, colour, count, parent, allowed, split } = description.collections
    const remoteId = textAt(raw, id)
    const counted = Number(textAt(raw, count))
    const terms = termsOf(description, raw)
    const whole: FoundCollection = {
      remoteId,
      name: textAt(raw, name) || remoteId,
      colour: /^#[0-9a-f]{6}$/i.exec(textAt(raw, colour))?.[0] ?? null,
      itemKind: 'task',
      writable: capabilities.can.change || capabilities.can.complete,
      count: count && Number.isFinite(counted) && textAt(raw, count) !== '' ? counted : null,
      parent: textAt(raw, parent) || null,
      whyNot:
        allowed && valueAt(raw, allowed) === false
          ? `${description.name} shows it to this account, but gives it no right to read it.`
          : null,
      terms,
    }
    if (!split) return [whole]
    const status = terms.roles.find(r => r.role === 'status')?.suggested
    const parts = columnsOf(description, raw)
      .filter(c => split.kinds.includes(c.kind) && c.id !== status)
      .flatMap(c =>
        listAt(c.raw, split.words).map((w): FoundCollection => ({
          ...whole,
          remoteId: `${remoteId}#${c.id}=${textAt(w, split.id)}`,
          name: `${whole.name}: ${textAt(w, split.name)}`,
          colour: null,
          count: null,
          parent: remoteId,
        })),
      )
    return [whole, ...parts]
  }

  return discover
}
