import type { Account } from '@loom/connectors'
import { Op, type WhereOptions } from 'sequelize'
import type { Sql } from '../database.ts'
import type { Json } from '../json.ts'
import type { DraftColumns } from '../models/connections.ts'

/** Connections that are being made. */

/** Connections that are being made: what has been said so far, sealed, for an hour. */
export type DraftRow = DraftColumns

export async function addDraft(
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
): Promise<void> {
  const { id, workspaceId, memberId, service, input, consent, state, account, until } = p
  const draft = { id, workspace_id: workspaceId, member_id: memberId, service, input, consent, account }
  await sql.models.drafts.create({ ...draft, consent_state: state, expires_at: until }, sql.within)
}

const draftWhere = async (sql: Sql, where: WhereOptions<DraftColumns>): Promise<DraftRow | null> =>
  (await sql.models.drafts.findOne({ where, ...sql.within })) as unknown as DraftRow | null

export const draftById = (
  sql: Sql,
  p: { id: string; memberId: string; now: number },
): Promise<DraftRow | null> =>
  draftWhere(sql, { id: p.id, member_id: p.memberId, expires_at: { [Op.gt]: p.now } })

export const draftByConsent = (sql: Sql, p: { state: string; memberId: string }): Promise<DraftRow | null> =>
  draftWhere(sql, { consent_state: p.state, member_id: p.memberId })

async function change(sql: Sql, id: string, draft: Partial<DraftColumns>): Promise<void> {
  await sql.models.drafts.update(draft, { where: { id }, transaction: sql.within.transaction })
}

export const endConsent = (sql: Sql, p: { id: string }): Promise<void> =>
  change(sql, p.id, { consent_state: null })

export const putSignedIn = (
  sql: Sql,
  p: { id: string; input: string; account: Json<Account> },
): Promise<void> => change(sql, p.id, { input: p.input, account: p.account, consent: null })

export const putDraftInput = (sql: Sql, p: { id: string; input: string }): Promise<void> =>
  change(sql, p.id, { input: p.input })

export const deleteDraft = (sql: Sql, p: { id: string }): Promise<number> =>
  sql.models.drafts.destroy({ where: { id: p.id }, transaction: sql.within.transaction })
