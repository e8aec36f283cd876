import type { Event, Item, ItemSource } from '@loom/core'
import type { TieLine } from '../data/repositories/cloth.ts'

/** Items that rules keep identical are drawn once. */

export const sameUid = (x: ItemSource<Item>, y: ItemSource<Item> | null): boolean =>
  x.item.uid === y?.item.uid

/** The same meeting as several calendars hold it (RFC 5545 §3.8.4.7: one UID, wherever it is kept). */
function sameMeeting(event: Event): string {
  const known = names.get(event)
  if (known !== undefined) return known
  const name = `${event.uid} ${JSON.stringify(event.time)}`
  names.set(event, name)
  return name
}
const names = new WeakMap<Event, string>()

/**
 * A task of a service that several accounts see: the same uid at the same service, and so far it says the same. A uid
 * alone is no identity, and two copies in one account are two.
 */
function sameTask({ item, kept }: ItemSource<Item>): string | null {
  if (item.kind !== 'task' || !kept) return null
  const known = taskNames.get(item)
  if (known !== undefined) return `${kept.service} ${known}`
  const { uid, summary, status, start, due, parent } = item
  const name = JSON.stringify([uid, summary, status, start, due, parent])
  taskNames.set(item, name)
  return `${kept.service} ${name}`
}
const taskNames = new WeakMap<Item, string>()

/** One that can be written to leads; of several, the one with the smallest id. */
export const leadsBefore = (x: ItemSource<Item>, y: ItemSource<Item>): boolean =>
  x.writable === y.writable ? x.id < y.id : x.writable

/**
 * Items of one kind that rules keep equal are drawn as one; the item that the others follow leads. The same holds
 * for a meeting in several calendars, where a writable one leads, and for a task that several accounts see.
 */
export function twinned(
  ties: readonly TieLine[],
  sources: ReadonlyMap<string, ItemSource<Item>>,
): { leadOf: (id: string | null) => string | null; twinsOf: (lead: string) => ItemSource<Item>[] } {
  const follows = new Map<string, string>()
  for (const { role, a, b } of ties) {
    if (role !== 'mirror' || a === null || b === null || follows.has(b)) continue
    if (sources.has(a) && sources.get(a)?.item.kind === sources.get(b)?.item.kind) follows.set(b, a)
  }
  const first = new Map<string, ItemSource<Item>>()
  const meetings = new Map<string, ItemSource<Item>[]>()
  for (const source of sources.values()) {
    const { id, item } = source
    if (item.kind !== 'event' || item.recurring || follows.has(id)) continue
    const name = sameMeeting(item)
    const one = first.get(name)
    if (one) meetings.set(name, [...(meetings.get(name) ?? [one]), source])
    else first.set(name, source)
  }
  for (const same of meetings.values()) {
    const lead = same.reduce((x, y) => (leadsBefore(y, x) ? y : x))
    for (const { id } of same) if (id !== lead.id) follows.set(id, lead.id)
  }
  const tasks = new Map<string, ItemSource<Item>>()
  for (const source of sources.values()) {
    const name = follows.has(source.id) ? null : sameTask(source)
    if (name === null) continue
    const lead = tasks.get(name)
    if (!lead) tasks.set(name, source)
    else if (lead.kept?.connectionId !== source.kept?.connectionId) {
      // Of two that may be written to, the first one that was read leads: rules hold on to it, later ones come and go.
      const isLead = leadsBefore(source, lead)
      if (isLead) tasks.set(name, source)
      follows.set(isLead ? lead.id : source.id, isLead ? source.id : lead.id)
    }
  }
  const leads = new Map<string, string>()
  const leadOf = (id: string): string => {
    const round = [id]
    for (let at = follows.get(id); at !== undefined && !round.includes(at); at = follows.get(at))
      round.push(at)
    const end = round.at(-1) ?? id
    // In a ring no item is first: the smallest id leads.
    const back = follows.get(end)
    return back === undefined ? end : (round.slice(round.indexOf(back)).sort()[0] ?? end)
  }
  const twins = new Map<string, ItemSource<Item>[]>()
  for (const id of new Set([...follows.keys(), ...follows.values()])) {
    const lead = leadOf(id)
    leads.set(id, lead)
    const source = sources.get(id)
    if (id !== lead && source) twins.set(lead, [...(twins.get(lead) ?? []), source])
  }
  return {
    leadOf: id => (id === null ? null : (leads.get(id) ?? id)),
    twinsOf: lead => twins.get(lead) ?? [],
  }
}
