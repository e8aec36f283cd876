const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const WORD = 'VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * How much of a list its owner agreed that a rule may show to others; for a rule also that is still asked for. And what
 * is asked may hold a whole rule, or what is to be shared.
 */
export const up: string[] = [
  `CREATE TABLE rule_consents (
    rule_id ${ID} NOT NULL,
    collection_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    level ${WORD} NOT NULL,
    given_by ${ID} NULL,
    given_at BIGINT NOT NULL,
    PRIMARY KEY (rule_id, collection_id),
    KEY of_workspace (workspace_id),
    CONSTRAINT consents_list FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  'ALTER TABLE requests MODIFY body MEDIUMTEXT NOT NULL',
]
