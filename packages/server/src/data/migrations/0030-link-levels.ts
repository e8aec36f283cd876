/** What a guest's address shows is said of each list. */
export const up: string[] = [
  `ALTER TABLE link_lists ADD level VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'nothing'`,
  `UPDATE link_lists k JOIN links l ON l.id = k.link_id SET k.level = l.level`,
  `ALTER TABLE links DROP COLUMN level`,
]
