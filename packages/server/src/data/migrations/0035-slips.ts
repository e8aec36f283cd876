const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/** How often work was planned and not done, and up to which day of each zone that was counted. */
export const up: string[] = [
  'ALTER TABLE own_layer ADD slips INT NOT NULL DEFAULT 0',
  `CREATE TABLE nights (
    workspace_id ${ID} NOT NULL PRIMARY KEY REFERENCES workspaces(id),
    counted TEXT NOT NULL
  ) ${TABLE}`,
]
