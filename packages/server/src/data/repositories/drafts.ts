import type { Json } from '../json.ts'
import type { Account } from '@loom/connectors'
import type { Sql } from '../database.ts'

export const DRAFT_COLUMNS =
  'SELECT id, workspace_id, member_id, service, input, consent, account FROM drafts'

export interface DraftRow {
  id: string
  workspace_id: string
  member_id: string
  service: string
  input: string
  consent: string | null
  account: Json<Account> | null
}

export const addDraft = (
  sql: Sql,
  p: {
    id: string
    workspaceId: string
    memberId: string
    service: string
    input: string
    consent: string | null
    state: string | null
    account: Json<Account> | null
    until: number
  },
): Promise<void> =>
  sql.insert(
    `INSERT INTO drafts (id, workspace_id, member_id, service, input, consent, consent_state, account, expires_at)
     VALUES (:id, :workspaceId, :memberId, :service, :input, :consent, :state, :account, :until)`,
    p,
  )

export const draftById = (
  sql: Sql,
  p: { id: string; memberId: string; now: number },
): Promise<DraftRow | null> =>
  sql.one(`${DRAFT_COLUMNS} WHERE id = :id AND member_id = :memberId AND expires_at > :now`, p)

export const draftByConsent = (sql: Sql, p: { state: string; memberId: string }): Promise<DraftRow | null> =>
  sql.one(`${DRAFT_COLUMNS} WHERE consent_state = :state AND member_id = :memberId`, p)

export const endConsent = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('UPDATE drafts SET consent_state = NULL WHERE id = :id', p)

export const putSignedIn = (
  sql: Sql,
  p: { id: string; input: string; account: Json<Account> },
): Promise<number> =>
  sql.run('UPDATE drafts SET input = :input, account = :account, consent = NULL WHERE id = :id', p)

export const putDraftInput = (sql: Sql, p: { id: string; input: string }): Promise<number> =>
  sql.run('UPDATE drafts SET input = :input WHERE id = :id', p)

export const deleteDraft = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.run('DELETE FROM drafts WHERE id = :id', p)
