import type { ServiceDescription } from '@loom/connectors'
import type { Json } from '../json.ts'
import type { Sequelize } from 'sequelize'
import { hash, id, long, number, ref, text, type Instant, tableOf } from './columns.ts'

/** What people keep of their own: views, categories, table mappings, and services that they describe. */

export interface ViewColumns {
  id: string
  workspace_id: string
  /** Null for one that the whole team has. */
  member_id: string | null
  made_by: string
  name: string
  icon: string
  body: Json<unknown>
  version: number
  place: number
}

export interface ServiceColumns {
  id: string
  workspace_id: string
  name: string
  description: Json<ServiceDescription>
  made_at: Instant
}

export interface CategoryColumns {
  workspace_id: string
  name: string
  dye: string | null
  words: Json<string[]>
}

export interface CsvMappingColumns {
  workspace_id: string
  headers: string
  mapping: Json<unknown>
}

export function settingsModels(sequelize: Sequelize) {
  const table = tableOf(sequelize)
  return {
    views: table<ViewColumns>('views', {
      id: id(),
      workspace_id: ref(),
      member_id: text(36, { allowNull: true }),
      made_by: ref(),
      name: text(100),
      icon: text(32),
      body: long(),
      version: number({ defaultValue: 1 }),
      place: number({ defaultValue: 0 }),
    }),
    services: table<ServiceColumns>('services', {
      id: id(),
      workspace_id: ref(),
      name: text(100),
      description: long(),
      made_at: number(),
    }),
    categories: table<CategoryColumns>('categories', {
      workspace_id: text(36, { primaryKey: true }),
      name: text(200, { primaryKey: true }),
      dye: text(7, { allowNull: true }),
      words: long(),
    }),
    csvMappings: table<CsvMappingColumns>('csv_mappings', {
      workspace_id: text(36, { primaryKey: true }),
      headers: hash({ primaryKey: true }),
      mapping: long(),
    }),
  }
}
