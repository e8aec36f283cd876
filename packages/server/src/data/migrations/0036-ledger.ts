const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * Time taken. Nothing here refers to an item by a key that would delete it: what has been written down stays. `day` is
 * in the person's zone; `counted` is how many of its minutes count beside all others, worked out at each change.
 */
export const up: string[] = [
  `CREATE TABLE ledgers (
    member_id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    clock_from_ms BIGINT NULL,
    clock_about TEXT NULL,
    CONSTRAINT ledgers_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE time_entries (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL,
    member_id ${ID} NOT NULL,
    version INT NOT NULL,
    withdrawn TINYINT NOT NULL DEFAULT 0,
    day DATE NOT NULL,
    from_ms BIGINT NULL,
    to_ms BIGINT NULL,
    minutes INT NOT NULL,
    counted INT NOT NULL DEFAULT 0,
    source VARCHAR(8) CHARACTER SET ascii NOT NULL,
    assumed TINYINT NOT NULL,
    item_key VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NULL,
    uid VARCHAR(500) NOT NULL,
    title VARCHAR(500) NOT NULL,
    list VARCHAR(200) NOT NULL,
    category VARCHAR(200) NOT NULL,
    kind VARCHAR(8) CHARACTER SET ascii NOT NULL,
    estimate INT NULL,
    private TINYINT NOT NULL,
    ref VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin NULL,
    made_at BIGINT NOT NULL,
    UNIQUE KEY by_ref (member_id, ref),
    KEY of_member (member_id, day, withdrawn),
    KEY of_task (member_id, uid(100)),
    KEY meetings (member_id, kind, day, withdrawn, from_ms, to_ms),
    KEY of_item (member_id, item_key),
    KEY of_workspace (workspace_id)
  ) ${TABLE}`,
  // Sums, written with the entries that they are of: a report of years is read at once.
  `CREATE TABLE time_days (
    member_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL,
    day DATE NOT NULL,
    kind VARCHAR(8) CHARACTER SET ascii NOT NULL,
    private TINYINT NOT NULL,
    category VARCHAR(200) NOT NULL,
    list VARCHAR(200) NOT NULL,
    minutes INT NOT NULL,
    unsaid INT NOT NULL,
    PRIMARY KEY (member_id, day, kind, private, category, list),
    KEY of_workspace (workspace_id, day)
  ) ${TABLE}`,
  `CREATE TABLE time_tasks (
    member_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL,
    uid VARCHAR(500) NOT NULL,
    item_key VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NULL,
    title VARCHAR(500) NOT NULL,
    category VARCHAR(200) NOT NULL,
    estimate INT NULL,
    taken INT NOT NULL,
    beside INT NOT NULL,
    day DATE NOT NULL,
    finished TINYINT NOT NULL DEFAULT 0,
    PRIMARY KEY (member_id, uid),
    KEY latest (member_id, day, uid),
    KEY of_workspace (workspace_id)
  ) ${TABLE}`,
  `CREATE TABLE time_entry_versions (
    entry_id ${ID} NOT NULL,
    version INT NOT NULL,
    workspace_id ${ID} NOT NULL,
    at BIGINT NOT NULL,
    body TEXT NOT NULL,
    PRIMARY KEY (entry_id, version),
    KEY of_workspace (workspace_id),
    CONSTRAINT versions_entry FOREIGN KEY (entry_id) REFERENCES time_entries(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE team_weeks (
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    week DATE NOT NULL,
    body TEXT NOT NULL,
    PRIMARY KEY (workspace_id, week)
  ) ${TABLE}`,
]
