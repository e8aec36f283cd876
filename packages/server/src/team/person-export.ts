import { jsCalendarOf } from '@loom/core'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { membershipsOfUser, settingsOfMember, zoneOfMember } from '../data/repositories/members.ts'
import { passesOf } from '../data/repositories/kept-up.ts'
import { planningRow } from '../data/repositories/planning.ts'
import { passkeysOfUser } from '../data/repositories/passkeys.ts'
import { commentsBy, journalLinesBy, ownItemsIn, viewsMadeBy } from '../data/repositories/person-export.ts'
import { invitationsTo } from '../data/repositories/received-invitations.ts'
import { sessionsOfUser } from '../data/repositories/sessions.ts'
import { ledgerOf } from '../data/repositories/time-entries.ts'
import { shownEntry } from '../ledger/ledger.ts'
import { intakeOf } from '../own/connector.ts'

const MOST_ENTRIES = 50_000

/**
 * Everything that is kept about one person, as JSON; what is in their intakes as JSCalendar (RFC 8984). Instants are
 * ISO 8601 in UTC. No secret is in it.
 */
export async function personExport(ctx: Context, user: { id: string; email: string }): Promise<object> {
  const { db } = ctx
  const iso = (epochMs: number): string => new Date(epochMs).toISOString()
  const workspaces = []
  for (const { id, workspaceId, workspace, role, name } of await membershipsOfUser(db, { userId: user.id })) {
    const settings = await settingsOfMember(db, { id })
    const intake = await ownItemsIn(db, { workspaceId, collection: intakeOf(id) })
    const invitations = await invitationsTo(db, { memberId: id, since: 0 })
    const views = await viewsMadeBy(db, { memberId: id })
    const planning = await planningRow(db, { memberId: id })
    const keptUp = await passesOf(db, { memberId: id, from: 0 })
    const time = await ledgerOf(db, { memberId: id, limit: MOST_ENTRIES })
    const journal = await journalLinesBy(db, { workspaceId, memberId: id })
    const comments = await commentsBy(db, { workspaceId, memberId: id })
    workspaces.push({
      workspace,
      name,
      role,
      zone: (await zoneOfMember(db, { id }))?.zone ?? null,
      settings: settings?.settings ? parsed(settings.settings) : {},
      dailySummary: settings?.daily_summary === 1,
      intake: intake.map(i => jsCalendarOf(parsed(i.item), i.original, ctx.now())),
      invitations: invitations.map(i => ({
        from: i.sender,
        at: iso(Number(i.received_at)),
        answer: i.answer,
        object: i.object,
      })),
      planning: planning ? parsed(planning.body) : null,
      keptUp: keptUp.map(k => ({ ...parsed(k.body), at: iso(Number(k.at)) })),
      time: time.map(row => {
        const { id: _, version: __, ...entry } = shownEntry(row)
        return entry
      }),
      views: views.map(v => ({ name: v.name, body: parsed(v.body) })),
      comments: comments.map(c => ({ at: iso(c.at), text: c.body })),
      journal: journal.map(j => ({ ...j, at: iso(j.at), fields: parsed(j.fields) })),
    })
  }
  const passkeys = await passkeysOfUser(db, { userId: user.id })
  const sessions = await sessionsOfUser(db, { userId: user.id, now: Date.now() })
  return {
    exportedAt: iso(ctx.now()),
    email: user.email,
    passkeys: passkeys.map(k => ({ name: k.name, made: iso(k.made_at) })),
    sessions: sessions.map(s => ({ device: s.device, made: iso(s.made_at), used: iso(s.used_at) })),
    workspaces,
  }
}
