import { randomUUID } from 'node:crypto'
import type { Role } from '@loom/core'
import type { Database, Sql } from '../data/database.ts'
import type { EntryLinkColumns } from '../data/models/people.ts'
import { addEntryLink, dropEntryLinks } from '../data/repositories/entry-links.ts'
import { anyWorkspace } from '../data/repositories/workspaces.ts'
import { hashOf, newToken } from './secrets.ts'

/**
 * Addresses by which somebody enters once. The token stands after the # of the address, which browsers send to nobody;
 * we keep its hash.
 */

const HOUR_MS = 3_600_000
type Purpose = Exclude<EntryLinkColumns['purpose'], 'passkey'>
const LASTS_MS: Record<Purpose, number> = {
  begin: 24 * HOUR_MS,
  invite: 7 * 24 * HOUR_MS,
  reset: HOUR_MS,
}
const PAGE: Record<Purpose, string> = {
  begin: 'begin',
  invite: 'join',
  reset: 'new-password',
}

type For =
  | { purpose: 'begin' }
  | { purpose: 'invite'; workspaceId: string; email: string; role: Role; by: string }
  | { purpose: 'reset'; userId: string }

export interface NewLink {
  row: EntryLinkColumns
  url: string
}

export function newEntryLink(publicUrl: string, of: For): NewLink {
  const token = newToken()
  const now = Date.now()
  const invites = of.purpose === 'invite' ? of : null
  return {
    url: new URL(`/${PAGE[of.purpose]}#${token}`, publicUrl).href,
    row: {
      token_hash: hashOf(token),
      id: randomUUID(),
      purpose: of.purpose,
      workspace_id: invites?.workspaceId ?? null,
      user_id: of.purpose === 'reset' ? of.userId : null,
      email: invites?.email ?? null,
      role: invites?.role ?? null,
      made_by: invites?.by ?? null,
      made_at: now,
      expires_at: now + LASTS_MS[of.purpose],
    },
  }
}

/** The one of its kind: what was given out before for the same is over. */
export async function putEntryLink(sql: Sql, { row }: NewLink): Promise<void> {
  const { purpose, workspace_id, user_id, email } = row
  await dropEntryLinks(sql, {
    purpose,
    ...(workspace_id && { workspace_id }),
    ...(user_id && { user_id }),
    ...(email && { email }),
  })
  await addEntryLink(sql, row)
}

/** The address at which the first person begins; null where somebody has. */
export async function beginning(db: Database, publicUrl: string): Promise<string | null> {
  if (await anyWorkspace(db)) return null
  const link = newEntryLink(publicUrl, { purpose: 'begin' })
  await db.commit(sql => putEntryLink(sql, link))
  return link.url
}
