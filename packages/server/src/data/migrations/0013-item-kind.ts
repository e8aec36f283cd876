/** A collection's column is called as it is in code: what kind of item is in it. Only a name changes, so no row is touched. */
export const up: string[] = ['ALTER TABLE collections RENAME COLUMN holds TO item_kind, ALGORITHM=INSTANT']
