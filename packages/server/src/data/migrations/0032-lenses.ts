const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const WORD = 'VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin'

/** A view that is granted may open what it shows: how far, by whom, and as it stood then. */
export const up: string[] = [
  `ALTER TABLE view_grants ADD opens ${WORD} NULL, ADD granted_by ${ID} NULL, ADD chosen LONGTEXT NULL`,
]
