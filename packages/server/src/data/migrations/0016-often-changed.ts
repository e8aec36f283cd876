/**
 * Values that change often move to tables that nothing references: whoever writes a row locks the rows it
 * references for reading, and would block whoever changes them.
 */
export const up: string[] = [
  `CREATE TABLE change_counters (
    workspace_id VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
    change_seq BIGINT NOT NULL DEFAULT 0
  )`,
  'INSERT INTO change_counters (workspace_id, change_seq) SELECT id, change_seq FROM workspaces',
  'ALTER TABLE workspaces DROP change_seq',

  `CREATE TABLE look_times (
    connection_id VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
    next_look_at BIGINT NOT NULL DEFAULT 0,
    look_every_ms INT NOT NULL DEFAULT 1000,
    last_ok_at BIGINT NULL,
    CONSTRAINT look_times_connection FOREIGN KEY (connection_id) REFERENCES connections(id) ON DELETE CASCADE
  )`,
  `INSERT INTO look_times (connection_id, next_look_at, look_every_ms, last_ok_at)
   SELECT id, next_look_at, look_every_ms, last_ok_at FROM connections`,
  'ALTER TABLE connections DROP next_look_at, DROP look_every_ms, DROP last_ok_at',

  `CREATE TABLE rule_progress (
    rule_id VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
    planned_seq BIGINT NOT NULL DEFAULT -1,
    last_pass_at BIGINT NULL,
    anew_at BIGINT NOT NULL DEFAULT 0,
    trouble TEXT NULL,
    failures INT NOT NULL DEFAULT 0,
    next_pass_at BIGINT NOT NULL DEFAULT 0,
    CONSTRAINT rule_progress_rule FOREIGN KEY (rule_id) REFERENCES rules(id) ON DELETE CASCADE
  )`,
  `INSERT INTO rule_progress (rule_id, planned_seq, last_pass_at, anew_at, trouble, failures, next_pass_at)
   SELECT id, planned_seq, last_pass_at, anew_at, trouble, failures, next_pass_at FROM rules`,
  `ALTER TABLE rules DROP planned_seq, DROP last_pass_at, DROP anew_at, DROP trouble, DROP failures,
    DROP next_pass_at`,
]
