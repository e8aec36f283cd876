import { z } from 'zod'
import { ServiceError } from '@loom/connectors'
import type { Asker } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { connectionOfWorkspace, type ConnectionRow } from '../data/repositories/connections.ts'

/** Whether somebody looks after a connection: it is theirs, or the team's and they are a coordinator. */
export const tends = ({ id, role }: Asker, { owner_id }: Pick<ConnectionRow, 'owner_id'>): boolean =>
  role !== 'reader' && (owner_id === id || (owner_id === null && role === 'coordinator'))

/** A connection that somebody looks after; null for any other. */
export async function connectionIn(
  ctx: Context,
  id: string,
  member: Asker & { workspaceId: string },
): Promise<ConnectionRow | null> {
  const row = await connectionOfWorkspace(ctx.db, { id, workspaceId: member.workspaceId })
  return row && tends(member, row) ? row : null
}

/** `origin`: another server that it redirects to and that was not agreed to. */
export interface Failed {
  ok: false
  reason: string
  trouble: string
  origin: string | null
}

/** What a service answers, or why it does not, as a sentence. */
export async function asked<T>(work: () => Promise<T>): Promise<{ ok: true; value: T } | Failed> {
  try {
    return { ok: true, value: await work() }
  } catch (error) {
    if (error instanceof ServiceError)
      return { ok: false, reason: error.message, trouble: error.trouble, origin: error.origin }
    throw error
  }
}

export const GONE = { reason: 'There is no such connection.' }

/** Other servers that a person has agreed to, by name. */
export const AlsoAt = z
  .array(z.url({ protocol: /^https?$/ }).max(300))
  .max(5)
  .optional()
