import { Op } from 'sequelize'
import type { Json } from '../json.ts'
import type { Sql } from '../database.ts'

/** Saved views, of one person or of the team. */

export interface ViewRow {
  id: string
  member_id: string | null
  name: string
  icon: string
  body: Json<unknown>
  version: number
  made_by: string | null
}

interface Who {
  workspaceId: string
  memberId: string
}
interface Said {
  /** Null: the whole team has it. */
  owner: string | null
  name: string
  icon: string
  body: Json<unknown>
}

/** The team's, and one's own. */
const seenBy = ({ workspaceId, memberId }: Who) => ({
  workspace_id: workspaceId,
  member_id: { [Op.or]: [null, memberId] },
})

/** The team's first. `made_by`: the maker's name. */
export async function viewsOf(sql: Sql, who: Who): Promise<ViewRow[]> {
  const found = (await sql.models.views.findAll({
    where: seenBy(who),
    include: { association: 'maker', attributes: ['name'] },
    order: ['name', 'id'],
    nest: true,
    ...sql.within,
  })) as unknown as (Omit<ViewRow, 'made_by'> & { maker: { name: string | null } })[]
  const views = found.map(({ maker, ...view }) => ({ ...view, made_by: maker.name }))
  const isTeams = (view: ViewRow): boolean => view.member_id === null
  return [...views.filter(isTeams), ...views.filter(v => !isTeams(v))]
}

export async function addView(sql: Sql, p: Who & Said & { id: string }): Promise<void> {
  const { id, workspaceId, memberId, owner, name, icon, body } = p
  await sql.models.views.create(
    { id, workspace_id: workspaceId, member_id: owner, made_by: memberId, name, icon, body },
    sql.within,
  )
}

/** Only from the version that its editor saw; how many were changed. */
export async function changeView(sql: Sql, p: Who & Said & { id: string; version: number }): Promise<number> {
  const { id, owner, name, icon, body, version } = p
  const [changed] = await sql.models.views.update(
    { name, icon, body, member_id: owner, version: version + 1 },
    { where: { id, version, ...seenBy(p) }, transaction: sql.within.transaction },
  )
  return changed
}

export const deleteView = (sql: Sql, p: Who & { id: string }): Promise<number> =>
  sql.models.views.destroy({ where: { id: p.id, ...seenBy(p) }, transaction: sql.within.transaction })
