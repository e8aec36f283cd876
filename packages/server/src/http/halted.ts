import { nameOfMirror } from '../data/repositories/chosen-items.ts'
import type { Context } from '../context/context.ts'
import type { Engine } from '../sync/engine/engine.ts'

import { nameOfConnection } from '../data/repositories/connections.ts'
import { nameOfRule } from '../data/repositories/rules.ts'

/** Sync does not run, after the server ended several times in a row: since when, and at what it ended last. */
export interface HaltedView {
  since: number
  /** A sentence. */
  reason: string
}

const ENDED = 'The server ended several times within a minute, so sync is stopped.'

/** Null while sync runs. What belongs to another workspace is not named. */
export async function haltedView(
  ctx: Context,
  engine: Engine,
  workspaceId: string,
): Promise<HaltedView | null> {
  const halted = engine.isHalted
  if (!halted) return null
  const name = await nameOf(ctx, halted.why, workspaceId)
  return { since: halted.since, reason: name === null ? ENDED : `${ENDED} It ended at ${name}.` }
}

async function nameOf(ctx: Context, why: string, workspaceId: string): Promise<string | null> {
  const [kind, id = ''] = why.split(':')
  const find = kind === 'connection' ? nameOfConnection : kind === 'rule' ? nameOfRule : nameOfMirror
  return (await find(ctx.db, { id, workspaceId }))?.name ?? null
}
