import {
  DataTypes,
  type Model,
  type ModelAttributeColumnOptions,
  type ModelStatic,
  type Sequelize,
} from 'sequelize'

/** What models are made of. */

/** Epoch ms. */
export type Instant = number
export type ModelOf<C extends object> = ModelStatic<Model<C, Partial<C>>>
type Column = ModelAttributeColumnOptions

export const text = (length: number, more: Partial<Column> = {}): Column => ({
  type: DataTypes.STRING(length),
  allowNull: false,
  validate: { len: [0, length] },
  ...more,
})
export const long = (more: Partial<Column> = {}): Column => ({
  type: DataTypes.TEXT('long'),
  allowNull: false,
  ...more,
})
export const number = (more: Partial<Column> = {}): Column => ({
  type: DataTypes.BIGINT,
  allowNull: false,
  ...more,
})
export const yesNo = (more: Partial<Column> = {}): Column => number({ validate: { isIn: [[0, 1]] }, ...more })
export const oneOf = (...values: string[]): Column => text(32, { validate: { isIn: [values] } })
export const id = (): Column => text(36, { primaryKey: true })
/** The id of a row of another table. */
export const ref = (more: Partial<Column> = {}): Column => text(36, more)
export const hash = (more: Partial<Column> = {}): Column =>
  text(64, { validate: { is: /^[0-9a-f]{64}$/ }, ...more })

export const tableOf =
  (sequelize: Sequelize) =>
  <C extends object>(name: string, columns: Record<keyof C, Column>): ModelOf<C> =>
    sequelize.define<Model<C, Partial<C>>>(name, columns as never, { tableName: name, timestamps: false })
