/**
 * Instants are BIGINT epoch milliseconds. Ids, etags and titles compare byte by byte and without padding
 * (utf8mb4_nopad_bin). JSON is TEXT, so that reading a row does not parse it. Every table is scoped to a
 * workspace.
 */
const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

export const up: string[] = [
  `CREATE TABLE workspaces (
    id ${ID} PRIMARY KEY,
    name VARCHAR(200) NOT NULL,
    zone VARCHAR(64) NOT NULL,
    change_seq BIGINT NOT NULL DEFAULT 0
  ) ${TABLE}`,
  `CREATE TABLE members (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    name VARCHAR(200) NOT NULL,
    email VARCHAR(320) NOT NULL UNIQUE,
    password_hash VARCHAR(255) NOT NULL,
    zone VARCHAR(64) NOT NULL
  ) ${TABLE}`,
  `CREATE TABLE sessions (
    token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL REFERENCES members(id),
    expires_at BIGINT NOT NULL,
    KEY by_member (member_id)
  ) ${TABLE}`,
  `CREATE TABLE connections (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    kind VARCHAR(32) NOT NULL,
    name VARCHAR(200) NOT NULL,
    address VARCHAR(500) NOT NULL,
    credentials TEXT NOT NULL,
    account_name VARCHAR(200) NOT NULL,
    zone VARCHAR(64) NULL,
    hook_secret CHAR(64) NULL,
    state VARCHAR(16) NOT NULL DEFAULT 'ok',
    trouble TEXT NULL,
    failing_since BIGINT NULL,
    failures INT NOT NULL DEFAULT 0,
    next_look_at BIGINT NOT NULL DEFAULT 0,
    last_ok_at BIGINT NULL,
    KEY by_workspace (workspace_id)
  ) ${TABLE}`,
  `CREATE TABLE collections (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    connection_id ${ID} NOT NULL,
    remote_id VARCHAR(500) NOT NULL,
    name VARCHAR(200) NOT NULL,
    dye VARCHAR(16) NOT NULL,
    holds VARCHAR(8) NOT NULL,
    writable TINYINT NOT NULL,
    takes_part TINYINT NOT NULL,
    sync_token VARCHAR(500) NULL,
    synced_at BIGINT NULL,
    trouble TEXT NULL,
    UNIQUE KEY remote (connection_id, remote_id),
    CONSTRAINT collections_connection FOREIGN KEY (connection_id) REFERENCES connections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE mirrors (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    connection_id ${ID} NOT NULL,
    collection_id ${ID} NOT NULL,
    remote_id VARCHAR(500) NOT NULL,
    revision VARCHAR(255) NOT NULL,
    uid VARCHAR(500) NOT NULL,
    kind VARCHAR(8) NOT NULL,
    presence VARCHAR(8) NOT NULL,
    item LONGTEXT NOT NULL,
    seen TEXT NOT NULL,
    first_seen_at BIGINT NOT NULL,
    start_ms BIGINT NULL,
    end_ms BIGINT NULL,
    recurring TINYINT NOT NULL,
    open_task TINYINT NOT NULL,
    change_seq BIGINT NOT NULL DEFAULT 0,
    UNIQUE KEY remote (connection_id, remote_id),
    KEY in_time (workspace_id, presence, start_ms, end_ms),
    KEY changed (collection_id, change_seq),
    KEY open_tasks (workspace_id, open_task),
    KEY by_uid (connection_id, uid(100)),
    CONSTRAINT mirrors_collection FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE payloads (
    mirror_id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    original LONGTEXT NOT NULL,
    CONSTRAINT payloads_mirror FOREIGN KEY (mirror_id) REFERENCES mirrors(id) ON DELETE CASCADE
  ) ${TABLE} ROW_FORMAT=COMPRESSED`,
  `CREATE TABLE own_layer (
    mirror_id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    estimate_minutes INT NULL,
    CONSTRAINT own_mirror FOREIGN KEY (mirror_id) REFERENCES mirrors(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE problems (
    collection_id ${ID} NOT NULL,
    remote_id VARCHAR(500) NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    revision VARCHAR(255) NOT NULL,
    reason TEXT NOT NULL,
    original LONGTEXT NOT NULL,
    seen_at BIGINT NOT NULL,
    PRIMARY KEY (collection_id, remote_id),
    CONSTRAINT problems_collection FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE rules (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    a_collection ${ID} NOT NULL,
    b_collection ${ID} NOT NULL,
    settings TEXT NOT NULL,
    state VARCHAR(8) NOT NULL,
    version INT NOT NULL,
    enabled_at BIGINT NOT NULL,
    planned_seq BIGINT NOT NULL DEFAULT -1,
    last_pass_at BIGINT NULL,
    notices TEXT NOT NULL,
    UNIQUE KEY pair (a_collection, b_collection),
    CONSTRAINT rules_a FOREIGN KEY (a_collection) REFERENCES collections(id) ON DELETE CASCADE,
    CONSTRAINT rules_b FOREIGN KEY (b_collection) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE ties (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    rule_id ${ID} NOT NULL,
    rule_version INT NOT NULL,
    role VARCHAR(8) NOT NULL DEFAULT 'mirror',
    a_mirror ${ID} NULL,
    b_mirror ${ID} NULL,
    base TEXT NOT NULL,
    released VARCHAR(32) NULL,
    made_at BIGINT NOT NULL,
    active TINYINT AS (IF(released IS NULL, 1, NULL)) PERSISTENT,
    UNIQUE KEY one_active_a (rule_id, role, a_mirror, active),
    UNIQUE KEY one_active_b (rule_id, role, b_mirror, active),
    KEY by_a (a_mirror),
    KEY by_b (b_mirror),
    KEY by_rule (rule_id, released),
    CONSTRAINT ties_rule FOREIGN KEY (rule_id) REFERENCES rules(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE intents (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    connection_id ${ID} NOT NULL,
    collection_id ${ID} NOT NULL,
    mirror_id ${ID} NULL,
    rule_id ${ID} NULL,
    member_id ${ID} NULL,
    tie_id ${ID} NULL,
    uid VARCHAR(500) NULL,
    body LONGTEXT NOT NULL,
    cause VARCHAR(64) NOT NULL,
    title TEXT NOT NULL,
    state VARCHAR(16) NOT NULL,
    attempts INT NOT NULL DEFAULT 0,
    next_try_at BIGINT NOT NULL DEFAULT 0,
    reason TEXT NULL,
    made_at BIGINT NOT NULL,
    made_seq BIGINT NOT NULL AUTO_INCREMENT UNIQUE,
    is_open TINYINT AS (IF(state = 'open', 1, NULL)) PERSISTENT,
    UNIQUE KEY one_open_for_item (mirror_id, is_open),
    UNIQUE KEY one_open_for_uid (uid, is_open),
    KEY due (connection_id, state, next_try_at),
    CONSTRAINT intents_connection FOREIGN KEY (connection_id) REFERENCES connections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE journal (
    id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    at BIGINT NOT NULL,
    rule_id ${ID} NULL,
    member_id ${ID} NULL,
    tie_id ${ID} NULL,
    mirror_id ${ID} NULL,
    collection_id ${ID} NULL,
    place VARCHAR(420) NOT NULL,
    title TEXT NOT NULL,
    op VARCHAR(16) NOT NULL,
    cause VARCHAR(64) NOT NULL,
    fields LONGTEXT NOT NULL,
    outcome VARCHAR(16) NOT NULL,
    reason TEXT NULL,
    took_ms INT NULL,
    KEY by_time (workspace_id, id)
  ) ${TABLE}`,
  `CREATE TABLE kept_originals (
    journal_id BIGINT NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    original LONGTEXT NOT NULL,
    until BIGINT NOT NULL,
    KEY by_until (until)
  ) ${TABLE} ROW_FORMAT=COMPRESSED`,
  `CREATE TABLE changes (
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    seq BIGINT NOT NULL,
    body TEXT NOT NULL,
    PRIMARY KEY (workspace_id, seq)
  ) ${TABLE}`,
  `CREATE TABLE leases (
    resource VARCHAR(80) PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    holder ${ID} NOT NULL,
    fence BIGINT NOT NULL,
    expires_at BIGINT NOT NULL
  ) ${TABLE}`,
]
