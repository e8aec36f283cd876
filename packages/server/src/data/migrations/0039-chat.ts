const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/** What was said last of a person at a chat, so that it is said once, and taken back when it is over. */
export const up: string[] = [
  `ALTER TABLE planning
     ADD tells_status TINYINT AS (IF(LOCATE('"tellsStatus":true', body) > 0, 1, 0)) VIRTUAL`,
  `CREATE TABLE chat_status (
    member_id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    connection_id ${ID} NOT NULL,
    text VARCHAR(100) NOT NULL,
    until_ms BIGINT NOT NULL,
    KEY of_workspace (workspace_id),
    CONSTRAINT status_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE,
    CONSTRAINT status_connection FOREIGN KEY (connection_id) REFERENCES connections(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
