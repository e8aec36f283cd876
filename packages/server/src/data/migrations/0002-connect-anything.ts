/** Scopes, meanings, people, drafts of connections, health by the hour, our own lists and their doors. */
const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const HASH = 'CHAR(64) CHARACTER SET ascii COLLATE ascii_bin'

export const up: string[] = [
  `ALTER TABLE connections
    MODIFY address TEXT NOT NULL,
    ADD description LONGTEXT NULL,
    ADD scope TEXT NOT NULL DEFAULT '{"by":"sentence","future":false,"filter":[],"notes":true}',
    ADD owner_id ${ID} NULL,
    ADD paused TINYINT NOT NULL DEFAULT 0,
    ADD settings_version INT NOT NULL DEFAULT 0,
    ADD look_every_ms INT NOT NULL DEFAULT 1000,
    ADD subscribed_at BIGINT NULL,
    ADD discovered_at BIGINT NOT NULL DEFAULT 0`,
  // Bench List had a connector of its own; its description ships with the product.
  `UPDATE connections SET kind = 'http-json' WHERE kind = 'bench-list'`,
  `ALTER TABLE collections
    MODIFY sync_token TEXT NULL,
    ADD terms LONGTEXT NOT NULL DEFAULT '{"statuses":[],"priorities":[],"roles":[],"statusesByColumn":{}}',
    ADD meaning LONGTEXT NULL,
    ADD parent_remote_id VARCHAR(500) NULL,
    ADD why_not TEXT NULL,
    ADD unknown_statuses TEXT NOT NULL DEFAULT '[]',
    ADD import_cursor TEXT NULL,
    ADD import_done INT NOT NULL DEFAULT 0,
    ADD import_total INT NULL`,
  `UPDATE mirrors SET item = JSON_INSERT(item, '$.assignees', JSON_ARRAY(), '$.parent', NULL, '$.recurring', FALSE)
    WHERE kind = 'task'`,
  `CREATE TABLE people (
    connection_id ${ID} NOT NULL,
    remote_id VARCHAR(255) NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    name VARCHAR(200) NOT NULL,
    email VARCHAR(320) NULL,
    is_me TINYINT NOT NULL,
    member_id ${ID} NULL,
    PRIMARY KEY (connection_id, remote_id),
    CONSTRAINT people_connection FOREIGN KEY (connection_id) REFERENCES connections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE picks (
    connection_id ${ID} NOT NULL,
    remote_id VARCHAR(500) NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    PRIMARY KEY (connection_id, remote_id),
    CONSTRAINT picks_connection FOREIGN KEY (connection_id) REFERENCES connections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE drafts (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL REFERENCES members(id),
    service VARCHAR(64) NOT NULL,
    input LONGTEXT NOT NULL,
    consent TEXT NULL,
    consent_state ${HASH} NULL,
    account LONGTEXT NULL,
    expires_at BIGINT NOT NULL,
    KEY by_state (consent_state)
  ) ${TABLE}`,
  `CREATE TABLE services (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    name VARCHAR(100) NOT NULL,
    description LONGTEXT NOT NULL,
    made_at BIGINT NOT NULL,
    KEY by_workspace (workspace_id)
  ) ${TABLE}`,
  `CREATE TABLE looks (
    connection_id ${ID} NOT NULL,
    slot BIGINT NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    passes INT NOT NULL,
    items INT NOT NULL,
    writes INT NOT NULL,
    errors INT NOT NULL,
    slowest_ms INT NOT NULL,
    delay_ms INT NOT NULL,
    PRIMARY KEY (connection_id, slot),
    CONSTRAINT looks_connection FOREIGN KEY (connection_id) REFERENCES connections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE own_items (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    collection VARCHAR(64) NOT NULL,
    uid VARCHAR(500) NOT NULL,
    revision INT NOT NULL,
    seq BIGINT NOT NULL,
    deleted TINYINT NOT NULL DEFAULT 0,
    item LONGTEXT NOT NULL,
    original LONGTEXT NULL,
    UNIQUE KEY one_uid (workspace_id, uid(200)),
    KEY in_order (workspace_id, seq)
  ) ${TABLE}`,
  `CREATE TABLE messages (
    own_item_id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    sender VARCHAR(320) NOT NULL,
    raw MEDIUMTEXT NOT NULL,
    CONSTRAINT messages_item FOREIGN KEY (own_item_id) REFERENCES own_items(id) ON DELETE CASCADE
  ) ${TABLE} ROW_FORMAT=COMPRESSED`,
  `CREATE TABLE doors (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL REFERENCES members(id),
    kind VARCHAR(8) NOT NULL,
    token_hash ${HASH} NOT NULL UNIQUE,
    token TEXT NOT NULL,
    made_at BIGINT NOT NULL,
    used_at BIGINT NULL,
    uses INT NOT NULL DEFAULT 0,
    KEY by_member (member_id)
  ) ${TABLE}`,
  `CREATE TABLE csv_mappings (
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    headers ${HASH} NOT NULL,
    mapping TEXT NOT NULL,
    PRIMARY KEY (workspace_id, headers)
  ) ${TABLE}`,
  // Packing pages costs an import more than it saves: originals are small, and read one at a time.
  `ALTER TABLE payloads ROW_FORMAT=DYNAMIC`,
  // Rows that many write at once do not hold on to the workspace's row, whose counter each of them raises last:
  // two that did would each wait for the other. They belong to it by way of their connection or their rule.
  ...[
    'mirrors',
    'payloads',
    'problems',
    'changes',
    'intents',
    'journal',
    'ties',
    'own_layer',
    'own_items',
    'kept_originals',
    'messages',
    'collections',
    'people',
    'picks',
    'looks',
    'leases',
  ].map(table => `ALTER TABLE ${table} DROP FOREIGN KEY ${table}_ibfk_1`),
]
