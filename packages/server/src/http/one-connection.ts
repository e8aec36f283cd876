import { z } from 'zod'
import { ServiceError } from '@loom/connectors'
import type { Context } from '../context/context.ts'
import { connectionOfWorkspace, type ConnectionRow } from '../data/repositories/connections.ts'

/** A connection of this workspace; null for anybody else's. */
export const connectionIn = (ctx: Context, id: string, workspaceId: string): Promise<ConnectionRow | null> =>
  connectionOfWorkspace(ctx.db, {
    id,
    workspaceId,
  })

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
