/** What the interface uses of the core; nothing here pulls in a parser of foreign formats. */
export * from '../time/when.ts'
export * from '../items/items.ts'
export { defaultSettings, RuleSettings, type Decision, type FieldChange } from '../sync/types.ts'
export * from './cloth-item.ts'
export * from './edit.ts'
export * from './pressure.ts'
export * from './week.ts'
export * from './words.ts'
