const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/** How each person plans: the sentence of a draft, work windows, regulars. */
export const up: string[] = [
  `CREATE TABLE planning (
    member_id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    version INT NOT NULL,
    body MEDIUMTEXT NOT NULL,
    KEY of_workspace (workspace_id),
    CONSTRAINT planning_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
