const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

export const up: string[] = [
  // What is still to follow its rule to another calendar or list.
  `CREATE TABLE going_along (
    mirror_id ${ID} PRIMARY KEY,
    rule_id ${ID} NOT NULL,
    member_id ${ID} NULL,
    KEY of_rule (rule_id),
    CONSTRAINT going_mirror FOREIGN KEY (mirror_id) REFERENCES mirrors(id) ON DELETE CASCADE,
    CONSTRAINT going_rule FOREIGN KEY (rule_id) REFERENCES rules(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // When it last went out, epoch ms; since when somebody is asked whether that arrived, by the product's clock.
  `ALTER TABLE intents
    ADD tried_at BIGINT NULL,
    ADD asks_since BIGINT NULL,
    ADD KEY asking (workspace_id, asks_since)`,
]
