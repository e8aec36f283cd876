import { ServiceError } from '@loom/connectors'
import { type AtNow, BEING_WORDS, beingAt, dayAt } from '@loom/core'
import { connectorOf, type Context } from '../context/context.ts'
import {
  dropStatusSaid,
  membersWithStatus,
  putStatusSaid,
  type SaidStatus,
  statusSaid,
} from '../data/repositories/chat.ts'
import { connectionById } from '../data/repositories/connections.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { planningFor } from '../planning/planning.ts'
import { clothSeenBy } from '../view/own-cloth.ts'
import { chatsFor } from './chat.ts'

/**
 * Tells at a chat what somebody is at now, for those who want it: a meeting, a break, focus, and nothing when that is
 * over. What it is about is never told. Each status bears its own end, so that none stays where we cannot take it back.
 */

const LOOK_MS = 15_000
/** A chat that could not be reached is tried again after so long. */
const AGAIN_MS = 60_000

interface Known {
  seq: number
  version: number
  /** When it may be otherwise. */
  nextMs: number
}

export class ChatStatuses {
  private readonly known = new Map<string, Known>()
  /** From then on only who asks for it looks. */
  stop: () => void = () => undefined

  constructor(private readonly ctx: Context) {}

  start(): void {
    this.stop = this.ctx.background.every('tell what people are at', LOOK_MS, () => this.look())
  }

  async look(): Promise<void> {
    const { ctx } = this
    const all = await membersWithStatus(ctx.db)
    const here = new Set(all.map(m => m.member))
    for (const id of this.known.keys()) if (!here.has(id)) this.known.delete(id)
    for (const { member: id, workspace: workspaceId, seq, version } of all) {
      const last = this.known.get(id)
      const isSame = last?.seq === seq && last.version === version && ctx.now() < last.nextMs
      if (isSame) continue
      const found = (await teamOfWorkspace(ctx.db, { workspaceId })).find(m => m.id === id)
      if (!found) continue
      try {
        const nextMs = await this.tell({ ...found, workspaceId, userId: '' })
        this.known.set(id, { seq, version, nextMs })
      } catch (error) {
        // What cannot be told of one keeps nothing of another; it is tried again, and ends by itself there.
        const isOfService = error instanceof ServiceError
        ctx.log[isOfService ? 'warn' : 'error']({ err: error, memberId: id }, 'a status could not be told')
        this.known.set(id, { seq, version, nextMs: ctx.now() + AGAIN_MS })
      }
    }
  }

  /** Returns when to look again, epoch ms. */
  private async tell(member: Member): Promise<number> {
    const { ctx } = this
    const { planning } = await planningFor(ctx.db, member)
    const { is, nextMs } = planning.tellsStatus ? await this.beingAt(member, planning.focusUntilMs) : NOTHING
    const said = await statusSaid(ctx.db, { memberId: member.id })
    const text = is && BEING_WORDS[is.kind]
    if (is && text !== null && !(said?.text === text && Number(said.until_ms) === is.untilMs)) {
      const chat = (await chatsFor(ctx, member)).find(c => c.tellsStatus)
      if (chat) {
        await this.say(chat.id, { text, untilMs: is.untilMs })
        await ctx.db.commit(sql =>
          putStatusSaid(sql, {
            memberId: member.id,
            workspaceId: member.workspaceId,
            connectionId: chat.id,
            text,
            untilMs: is.untilMs,
          }),
        )
      }
    } else if (!is && said) await this.takeBack(member, said)
    return nextMs ?? ctx.now() + MOST_MS
  }

  private async beingAt(member: Member, focusUntilMs: number | null): Promise<AtNow> {
    const { ctx } = this
    const { zone, id } = member
    const now = ctx.now()
    const span = { from: dayAt(now, zone), days: 2 }
    const { items } = await ctx.db.snapshot(sql => clothSeenBy(sql, member, span, now))
    return beingAt(items, { me: id, now, focusUntilMs })
  }

  private async takeBack({ id }: Member, said: SaidStatus): Promise<void> {
    // What has run out there needs nobody to take it back.
    if (Number(said.until_ms) > this.ctx.now()) await this.say(said.connection_id, null)
    await this.ctx.db.commit(sql => dropStatusSaid(sql, { memberId: id }))
  }

  private async say(connection: string, status: { text: string; untilMs: number } | null): Promise<void> {
    const row = await connectionById(this.ctx.db, { id: connection })
    const chat = row && (await connectorOf(this.ctx, row)).chat
    await chat?.say?.(status)
  }
}

const NOTHING: AtNow = { is: null, nextMs: null }
const MOST_MS = 3_600_000
