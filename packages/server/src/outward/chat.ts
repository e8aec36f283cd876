import { ServiceError } from '@loom/connectors'
import { addDays, type ClothItem, dayAt, daysInWords, type Level, settingsOfPerson } from '@loom/core'
import { sightIn, sightOfLink } from '../access/sight.ts'
import { connectorOf, type Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { channelsOf, chatsOfMember } from '../data/repositories/chat.ts'
import { homesOfWorkspace } from '../data/repositories/collections.ts'
import { connectionById } from '../data/repositories/connections.ts'
import { settingsOfMember } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { clothOf, DEFAULT_MINUTES, readCloth } from '../view/cloth.ts'

/** Writing a day or a row into a chat: what would be written is shown first, at the level that was chosen. */

export interface Chat {
  id: string
  name: string
  maxLength: number
  channels: { id: string; name: string }[]
  /** Whether it can tell what somebody is at. */
  tellsStatus: boolean
}

export async function chatsFor(ctx: Context, { id }: Member): Promise<Chat[]> {
  const rows = await chatsOfMember(ctx.db, { memberId: id })
  const channels = await channelsOf(ctx.db, { connections: rows.map(r => r.id) })
  return rows.flatMap(({ id: chat, name, description }) => {
    const says = parsed(description).chat
    if (!says) return []
    const own = channels.flatMap(k => (k.connection === chat ? [{ id: k.channel, name: k.name }] : []))
    const tellsStatus = says.status !== undefined && says.clear !== undefined
    return [{ id: chat, name, maxLength: says.maxLength, channels: own, tellsStatus }]
  })
}

export interface TellDays {
  from: string
  days: number
  level: Extract<Level, 'busy' | 'title' | 'everything'>
  /** Of whom; or of one list. */
  of: { person: string } | { list: string }
}

/** As text: only of lists that are theirs to show, lowered as for a guest. Private things are taken time, or nothing. */
export async function daysToTell(
  ctx: Context,
  member: Member,
  { from, days, level, of }: TellDays,
): Promise<string> {
  const { workspaceId, zone } = member
  const viewer = { zone, defaultMinutes: DEFAULT_MINUTES, now: ctx.now() }
  const span = { from, days }
  const items = await ctx.db.snapshot(async sql => {
    const sight = await sightIn(sql, member)
    const homes = await homesOfWorkspace(sql, { workspaceId })
    const shown = homes.flatMap(h =>
      sight.tends(h.id) && (!('list' in of) || h.id === of.list) ? [{ id: h.id, level }] : [],
    )
    const reading = await readCloth(sql, { workspaceId, ...span }, viewer, null)
    return clothOf(reading, sightOfLink(sight, shown), span, viewer, () => zone)
  })
  const row = await settingsOfMember(ctx.db, { id: member.id })
  const { clock } = settingsOfPerson(row ? parsed(row.settings) : {})
  const isOf = ({ people }: ClothItem): boolean =>
    'list' in of || people.includes(of.person) || (people.length === 0 && of.person === member.id)
  return daysInWords(items.filter(isOf), { from, days, zone, clock })
}

export type Sent = { ok: true } | { ok: false; status: 404 | 422 | 502; reason: string }

/** Writes it once: whether it arrived, where the answer is lost, nobody can tell, and it says so. */
export async function sendToChat(
  ctx: Context,
  member: Member,
  { chat: id, channel, text }: { chat: string; channel: string; text: string },
): Promise<Sent> {
  const chat = (await chatsFor(ctx, member)).find(c => c.id === id)
  if (!chat?.channels.some(k => k.id === channel))
    return { ok: false, status: 404, reason: 'This channel is not there any more.' }
  if (text.length > chat.maxLength)
    return {
      ok: false,
      status: 422,
      reason: `It is longer than the ${chat.maxLength} characters that ${chat.name} takes.`,
    }
  const row = await connectionById(ctx.db, { id })
  const there = row && (await connectorOf(ctx, row)).chat
  if (!there) return { ok: false, status: 404, reason: 'This account is not there any more.' }
  try {
    await there.post(channel, text)
    return { ok: true }
  } catch (error) {
    if (!(error instanceof ServiceError)) throw error
    const isUnknown = error.trouble === 'timeout' || error.trouble === 'unreachable'
    const look = isUnknown ? ' It may have arrived all the same: look there before you send it again.' : ''
    return { ok: false, status: 502, reason: `${error.message}${look}` }
  }
}

/** Days that can be told at a time. */
export const MOST_TOLD_DAYS = 14
export const isTellable = (from: string, now: number, zone: string): boolean => {
  const today = dayAt(now, zone)
  return from >= addDays(today, -366) && from <= addDays(today, 366)
}
