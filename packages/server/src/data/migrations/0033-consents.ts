const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const WORD = 'VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * How much of a list its owner agreed that rules show of it where they carry it. And what is asked may hold a whole
 * rule, or what is to be shared.
 */
export const up: string[] = [
  `CREATE TABLE consents (
    collection_id ${ID} NOT NULL,
    target_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    level ${WORD} NOT NULL,
    given_by ${ID} NULL,
    given_at BIGINT NOT NULL,
    PRIMARY KEY (collection_id, target_id),
    KEY of_workspace (workspace_id),
    CONSTRAINT consents_list FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE,
    CONSTRAINT consents_target FOREIGN KEY (target_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  'ALTER TABLE requests MODIFY body MEDIUMTEXT NOT NULL',
]
