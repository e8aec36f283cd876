import { randomBytes, randomUUID } from 'node:crypto'
import { newTask, type Task, understoodOr } from '@loom/core'
import { readQuickEntry } from '@loom/core/capture'
import { teamOfWorkspace, zoneOfMember } from '../data/repositories/members.ts'
import { LRUCache } from 'lru-cache'
import { hashOf, seal, unseal } from '../access/secrets.ts'
import { addOwn, intakeOf } from '../own/connector.ts'
import { ownConnectionOf } from '../connecting/own-lists.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'
import {
  doorsOfMember,
  dropDoor,
  addDoor,
  doorByToken,
  putMessage,
  countUse,
  type Door,
  type DoorKind,
} from '../data/repositories/doors.ts'
import type { Member } from '../data/repositories/sessions.ts'

/** Letters and digits that are hard to confuse, so that it can be read out. */
const ALPHABET = 'abcdefghjkmnpqrstuvwxyz23456789'
const newDoorToken = (): string => [...randomBytes(24)].map(b => ALPHABET[b % ALPHABET.length] ?? '').join('')

const PER_MINUTE = 30
const MAX_TITLE = 500
const MAX_TEXT = 50_000

export async function doorsOf(ctx: Context, member: Member): Promise<Door[]> {
  const rows = await doorsOfMember(ctx.db, {
    id: member.id,
  })
  return rows.map(r => ({
    id: r.id,
    kind: r.kind,
    token: String(unseal(r.token, ctx.secret)),
    madeAt: r.made_at,
    usedAt: r.used_at,
    uses: r.uses,
  }))
}

/** Opens a door; one of the same kind that was open is shut by it. */
export async function openDoor(ctx: Context, member: Member, kind: DoorKind): Promise<void> {
  const token = newDoorToken()
  await ctx.db.commit(async sql => {
    await dropDoor(sql, { id: member.id, kind })
    await addDoor(sql, {
      id: randomUUID(),
      workspaceId: member.workspaceId,
      memberId: member.id,
      kind,
      hash: hashOf(token),
      token: seal(token, ctx.secret),
      now: ctx.now(),
    })
  })
}

export async function shutDoor(ctx: Context, member: Member, kind: DoorKind): Promise<void> {
  await dropDoor(ctx.db, { id: member.id, kind })
}

export interface Captured {
  /** What tells two deliveries of the same thing apart from two things; null when nothing does. */
  key: string | null
  title: string
  text: string
  url: string | null
  /** The message as it came, and who sent it. */
  message: { sender: string; raw: string } | null
}

/** By door; doors unused for a while are dropped. */
const recent = new LRUCache<string, number[]>({ max: 10_000, ttl: 60_000 })

/** Whether the door's limit allows another message. Counts it. */
export function mayPass(doorId: string): boolean {
  const now = Date.now()
  const times = (recent.get(doorId) ?? []).filter(t => now - t < 60_000)
  if (times.length >= PER_MINUTE) return false
  recent.set(doorId, [...times, now])
  return true
}

export async function doorBehind(
  ctx: Context,
  kind: DoorKind,
  token: string,
): Promise<{ id: string } | null> {
  return doorByToken(ctx.db, {
    hash: hashOf(token),
    kind,
  })
}

/** Whose intake a mail address is, where somebody's who is a member still. */
export async function memberBehind(
  ctx: Context,
  token: string,
): Promise<{ id: string; workspaceId: string; email: string } | null> {
  const door = await doorByToken(ctx.db, { hash: hashOf(token), kind: 'mail' })
  const team = door ? await teamOfWorkspace(ctx.db, { workspaceId: door.workspace_id }) : []
  const member = team.find(m => m.id === door?.member_id)
  return member && door ? { id: member.id, workspaceId: door.workspace_id, email: member.email } : null
}

/** What a line says beside its title. Whom it is for and where it belongs is not asked here: it is somebody's own intake. */
function asSaid(title: string, now: number, zone: string): Partial<Task> {
  const known = { people: [], lists: [], now, zone }
  const read = (given: string[]) => readQuickEntry(title, known, given)
  // A week is no date that a task can hold: its words stay.
  const weeks = read([]).parts.flatMap(p => (p.kind === 'week' ? [p.words] : []))
  const { title: summary, parts } = read(weeks)
  const said: Partial<Task> = { summary: summary || title }
  for (const part of parts) {
    if (part.kind === 'start' || part.kind === 'due') said[part.kind] = part.when
    if (part.kind === 'length') said.estimatedDuration = part.minutes
    if (part.kind === 'priority') said.priority = part.priority
  }
  return said
}

/** Puts what was captured into the intake of the door's owner. */
export async function passDoor(
  ctx: Context,
  engine: Engine,
  kind: DoorKind,
  token: string,
  captured: Captured,
): Promise<'in' | 'no-door' | 'too-many'> {
  const door = await doorByToken(ctx.db, {
    hash: hashOf(token),
    kind,
  })
  if (!door) return 'no-door'
  // Mail is counted before its message is read.
  if (kind === 'capture' && !mayPass(door.id)) return 'too-many'
  const uid = captured.key
    ? `${kind}-${hashOf(`${door.member_id} ${captured.key}`).slice(0, 32)}`
    : randomUUID()
  const title = captured.title.replace(/\s+/g, ' ').trim().slice(0, MAX_TITLE) || 'Untitled'
  const zone = (await zoneOfMember(ctx.db, { id: door.member_id }))?.zone ?? 'UTC'
  const task = newTask(uid, {
    ...understoodOr(() => asSaid(title, ctx.now(), zone), { summary: title }),
    description: captured.text.slice(0, MAX_TEXT),
    url: captured.url,
  })
  await ctx.db.commit(async sql => {
    const { id, made } = await addOwn(sql, door.workspace_id, intakeOf(door.member_id), task, ctx.now())
    if (made && captured.message)
      await putMessage(sql, { id, workspaceId: door.workspace_id, ...captured.message })
    await countUse(sql, {
      id: door.id,
      now: ctx.now(),
    })
  })
  await engine.look(await ownConnectionOf(ctx, door.workspace_id))
  return 'in'
}
