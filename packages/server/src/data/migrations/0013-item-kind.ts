/** Renames a collection's column to its name in code: the kind of item in it. No row is touched. */
export const up: string[] = ['ALTER TABLE collections RENAME COLUMN holds TO item_kind, ALGORITHM=INSTANT']
