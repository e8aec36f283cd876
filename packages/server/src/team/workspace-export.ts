import { jsCalendarOf, settingsOf, viewOf } from '@loom/core'
import { sharingOf } from '../access/sight.ts'
import type { Context } from '../context/context.ts'
import { parsed } from '../data/json.ts'
import { categoriesOf } from '../data/repositories/categories.ts'
import { commentsSeen } from '../data/repositories/comments.ts'
import { groupsOf, listsToShare } from '../data/repositories/grants.ts'
import { journalEntries } from '../data/repositories/journal.ts'
import { teamOfWorkspace } from '../data/repositories/members.ts'
import { ruleInWorkspace } from '../data/repositories/rules.ts'
import type { Member } from '../data/repositories/sessions.ts'
import { workspaceInBrief } from '../data/repositories/workspaces.ts'
import { choose, each } from '../files/export.ts'
import { inTurns } from '../files/read.ts'
import { rulesToChange } from '../sync/rules/rule-rights.ts'
import { withNames } from '../sync/log/named-accounts.ts'
import { viewsFor } from './views-for.ts'

const MOST = 50_000

/**
 * A workspace as a coordinator sees it, as JSON; tasks and events as JSCalendar (RFC 8984). Instants are ISO 8601 in
 * UTC. What others keep to themselves is not in it, and no secret is.
 */
export async function workspaceExport(ctx: Context, member: Member): Promise<object> {
  const { db } = ctx
  const { workspaceId } = member
  const iso = (epochMs: number): string => new Date(epochMs).toISOString()
  const sharing = await sharingOf(db, workspaceId)
  const sight = sharing.sightOf(member)
  const team = await teamOfWorkspace(db, { workspaceId })
  const groups = await groupsOf(db, { workspaceId })
  const lists = await listsToShare(db, { workspaceId, lists: sight.withAtLeast('title') })
  const nameOf = (id: string | null | undefined): string | null => team.find(m => m.id === id)?.name ?? null
  const placeOf = (id: string): string => {
    const list = lists.find(l => l.id === id)
    return list ? `${list.service} · ${list.name}` : ''
  }
  const toWhom = (to: { kind: string; id?: string }): string =>
    to.kind === 'everybody'
      ? 'everybody'
      : (nameOf(to.id) ?? groups.find(g => g.id === to.id)?.name ?? 'nobody any more')
  const mine = [...(await rulesToChange(db, member))]
  const rules = await Promise.all(mine.map(id => ruleInWorkspace(db, { id, workspaceId })))
  const seen = sight.wholeLists()
  const journal = await journalEntries(db, workspaceId, {}, { most: MOST, seen, mine })
  const told = await withNames(
    db,
    journal.map(j => ({ ...j, fields: parsed(j.fields) })),
  )
  const comments = await commentsSeen(db, { workspaceId, seen, words: null, before: null, most: MOST })
  const items = await choose(ctx, member, { collections: [], filter: [], from: null, to: null })
  const workspace = await workspaceInBrief(db, { workspaceId })
  return {
    exportedAt: iso(ctx.now()),
    workspace: workspace && { name: workspace.name, zone: workspace.zone },
    members: team.map(m => ({ name: m.name, email: m.email, role: m.role, zone: m.zone })),
    groups: groups.map(g => ({
      name: g.name,
      members: team.flatMap(m => (sharing.groupsOf(m.id).includes(g.id) ? [m.name] : [])),
    })),
    lists: lists.map(l => ({
      service: l.service,
      name: l.name,
      holds: `${l.itemKind}s`,
      owner: nameOf(sharing.of(l.id)?.owner),
      shared: sight.tends(l.id)
        ? (sharing.of(l.id)?.grants ?? []).map(g => ({ with: toWhom(g.to), level: g.level }))
        : null,
    })),
    categories: await categoriesOf(db, { workspaceId }),
    rules: rules.flatMap(rule =>
      rule
        ? [
            {
              name: rule.name,
              a: placeOf(rule.a_collection),
              b: placeOf(rule.b_collection),
              state: rule.state,
              settings: settingsOf(parsed(rule.settings)),
            },
          ]
        : [],
    ),
    views: (await viewsFor(db, member)).map(v => ({
      name: v.row.name,
      madeBy: v.row.made_by,
      body: viewOf(parsed(v.row.body)),
    })),
    comments: comments.map(c => ({
      at: iso(c.made_at),
      who: c.who,
      place: c.place,
      title: c.title,
      text: c.body,
    })),
    journal: told.map(j => ({
      at: iso(j.at),
      who: j.who,
      rule: j.rule,
      place: j.place,
      title: j.title,
      op: j.op,
      outcome: j.outcome,
      reason: j.reason,
      fields: j.fields,
    })),
    items: await inTurns(
      each(items, c => ({
        list: placeOf(c.collection),
        item: jsCalendarOf(c.item, c.original, ctx.now()),
      })),
    ),
  }
}
