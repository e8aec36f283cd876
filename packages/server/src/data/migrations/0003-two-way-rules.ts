/** Rules of every kind: their versions, conflicts that wait, removals that the brake holds, passes and their undoing. */
const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

export const up: string[] = [
  `ALTER TABLE rules
    ADD name VARCHAR(200) NULL,
    ADD place INT NOT NULL DEFAULT 0,
    MODIFY notices LONGTEXT NOT NULL`,
  `CREATE TABLE rule_versions (
    rule_id ${ID} NOT NULL,
    version INT NOT NULL,
    workspace_id ${ID} NOT NULL,
    settings TEXT NOT NULL,
    saved_at BIGINT NOT NULL,
    member_id ${ID} NULL,
    PRIMARY KEY (rule_id, version),
    CONSTRAINT versions_rule FOREIGN KEY (rule_id) REFERENCES rules(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // Ties know under which version their base was told, whatever was paused and started since.
  `UPDATE ties t JOIN rules r ON r.id = t.rule_id SET t.rule_version = r.version`,
  `INSERT INTO rule_versions (rule_id, version, workspace_id, settings, saved_at)
    SELECT id, version, workspace_id, settings, enabled_at FROM rules`,
  `ALTER TABLE ties ADD memory TEXT NOT NULL DEFAULT '{}'`,
  `ALTER TABLE intents ADD pass_id ${ID} NULL, ADD removal TINYINT NOT NULL DEFAULT 0`,
  `ALTER TABLE journal
    ADD pass_id ${ID} NULL,
    ADD side CHAR(1) NULL,
    ADD removal TINYINT NOT NULL DEFAULT 0,
    ADD waited_ms INT NULL,
    ADD undone_at BIGINT NULL,
    ADD KEY by_pass (pass_id),
    ADD KEY by_item (mirror_id, id),
    ADD KEY removals (collection_id, removal, at),
    ADD KEY by_rule (rule_id, at)`,
  `CREATE TABLE conflicts (
    tie_id ${ID} NOT NULL,
    field VARCHAR(16) NOT NULL,
    workspace_id ${ID} NOT NULL,
    rule_id ${ID} NOT NULL,
    title TEXT NOT NULL,
    reason TEXT NOT NULL,
    base LONGTEXT NULL,
    a LONGTEXT NOT NULL,
    b LONGTEXT NOT NULL,
    seen TEXT NOT NULL,
    since BIGINT NOT NULL,
    answer LONGTEXT NULL,
    answered_by ${ID} NULL,
    PRIMARY KEY (tie_id, field),
    KEY by_workspace (workspace_id, since),
    CONSTRAINT conflicts_rule FOREIGN KEY (rule_id) REFERENCES rules(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE braked (
    tie_id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL,
    rule_id ${ID} NOT NULL,
    collection_id ${ID} NOT NULL,
    title TEXT NOT NULL,
    reason VARCHAR(64) NOT NULL,
    effect VARCHAR(16) NOT NULL,
    side CHAR(1) NOT NULL,
    since BIGINT NOT NULL,
    answer VARCHAR(8) NULL,
    answered_by ${ID} NULL,
    KEY by_rule (rule_id),
    CONSTRAINT braked_rule FOREIGN KEY (rule_id) REFERENCES rules(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // The first reading of a connection is a full one.
  `ALTER TABLE connections ADD compared_at BIGINT NOT NULL DEFAULT (UNIX_TIMESTAMP() * 1000)`,
  `ALTER TABLE members ADD daily_summary TINYINT NOT NULL DEFAULT 0, ADD summary_sent VARCHAR(10) NULL`,
  // What changed since a number, wherever it is: a tie follows an item that moves to another list.
  `ALTER TABLE mirrors ADD KEY changed_anywhere (workspace_id, change_seq)`,
  `UPDATE mirrors SET item = JSON_INSERT(item, '$.priority', 0) WHERE kind = 'event'`,
]
