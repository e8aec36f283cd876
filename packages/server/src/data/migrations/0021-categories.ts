const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/** What a workspace calls its categories, and which words of services mean each. */
export const up: string[] = [
  `CREATE TABLE categories (
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    name VARCHAR(200) NOT NULL,
    dye CHAR(7) NULL,
    words LONGTEXT NOT NULL,
    PRIMARY KEY (workspace_id, name)
  ) ${TABLE}`,
]
