const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/** Whoever was shown a list may be allowed to show it to others; and who said what, so that they can take it back. */
export const up: string[] = [
  `ALTER TABLE grants ADD pass_on TINYINT NOT NULL DEFAULT 0, ADD granted_by ${ID} NULL`,
]
