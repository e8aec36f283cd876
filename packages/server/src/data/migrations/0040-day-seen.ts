const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/** When somebody last looked at what is new, and what of a list was first seen since. */
export const up: string[] = [
  `CREATE TABLE day_seen (
    member_id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    at BIGINT NOT NULL,
    KEY of_workspace (workspace_id),
    CONSTRAINT seen_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  'ALTER TABLE mirrors ADD KEY first_seen (collection_id, first_seen_at)',
]
