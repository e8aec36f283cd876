import type { Model, ModelStatic, Sequelize } from 'sequelize'
import { connectionModels } from './connections.ts'
import { peopleModels } from './people.ts'
import { ruleModels } from './rules.ts'
import { settingsModels } from './settings.ts'

/**
 * The Sequelize models of tables that are simply read and written: columns, validation and associations. What is
 * locked, compared before it is set, or read often is SQL in `repositories/`. A test compares the columns with the
 * migrations.
 */
function define(sequelize: Sequelize) {
  const models = {
    ...peopleModels(sequelize),
    ...settingsModels(sequelize),
    ...connectionModels(sequelize),
    ...ruleModels(sequelize),
  }
  const {
    users,
    workspaces,
    members,
    sessions,
    entryLinks,
    passkeys,
    views,
    doors,
    services,
    drafts,
    categories,
    csvMappings,
    groups,
  } = models
  const { connections, collections, people, picks, rules, ruleVersions } = models
  for (const owned of [
    members,
    views,
    services,
    categories,
    csvMappings,
    groups,
    connections,
    rules,
  ] as ModelStatic<Model>[])
    owned.belongsTo(workspaces, { as: 'workspace', foreignKey: 'workspace_id' })
  for (const owned of [members, sessions, entryLinks, passkeys] as ModelStatic<Model>[])
    owned.belongsTo(users, { as: 'user', foreignKey: 'user_id' })
  entryLinks.belongsTo(workspaces, { as: 'workspace', foreignKey: 'workspace_id' })
  entryLinks.belongsTo(members, { as: 'maker', foreignKey: 'made_by' })
  for (const owned of [sessions, doors, drafts, people, ruleVersions] as ModelStatic<Model>[])
    owned.belongsTo(members, { as: 'member', foreignKey: 'member_id' })
  for (const owned of [collections, people, picks] as ModelStatic<Model>[])
    owned.belongsTo(connections, { as: 'connection', foreignKey: 'connection_id' })
  views.belongsTo(members, { as: 'maker', foreignKey: 'made_by' })
  connections.belongsTo(members, { as: 'owner', foreignKey: 'owner_id' })
  ruleVersions.belongsTo(rules, { as: 'rule', foreignKey: 'rule_id' })
  return models
}
export type Models = ReturnType<typeof define>

const defined = new WeakMap<Sequelize, Models>()

export function modelsOf(sequelize: Sequelize): Models {
  const known = defined.get(sequelize) ?? define(sequelize)
  defined.set(sequelize, known)
  return known
}
