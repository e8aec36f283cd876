const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * When something slipped for the first time; and what waits for what: as services tell it, found by an index over what
 * their items say, and as we keep it where a service has no room for it.
 */
export const up: string[] = [
  'ALTER TABLE own_layer ADD slipped_at BIGINT NULL',
  `ALTER TABLE mirrors
     ADD waits TINYINT AS (IF(LOCATE('"waitsFor":[{', item) > 0, 1, NULL)) VIRTUAL,
     ADD KEY waiting (workspace_id, waits)`,
  `CREATE TABLE waits (
    mirror_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    uid VARCHAR(500) NOT NULL,
    gap INT NOT NULL,
    PRIMARY KEY (mirror_id, uid),
    KEY of_workspace (workspace_id),
    CONSTRAINT waits_mirror FOREIGN KEY (mirror_id) REFERENCES mirrors(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
