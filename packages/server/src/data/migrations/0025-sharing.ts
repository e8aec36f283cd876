const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/**
 * Who sees what. Until now everybody saw and changed everything, so every list and calendar that takes part begins as
 * granted to everybody, *as before*; one that is taken in later starts at nothing; what has been somebody's own all along, their intake, is theirs alone.
 */
export const up: string[] = [
  `ALTER TABLE collections
    ADD owner_id ${ID} NULL,
    ADD as_before TINYINT NOT NULL DEFAULT 0`,
  `UPDATE collections k JOIN connections n ON n.id = k.connection_id AND n.kind = 'own'
    JOIN members m ON m.workspace_id = k.workspace_id AND k.remote_id = CONCAT('intake-', m.id)
    SET k.owner_id = m.id`,
  `UPDATE collections SET as_before = 1 WHERE owner_id IS NULL`,
  `CREATE TABLE member_groups (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    name VARCHAR(100) NOT NULL,
    KEY of_workspace (workspace_id)
  ) ${TABLE}`,
  `CREATE TABLE group_members (
    group_id ${ID} NOT NULL,
    member_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    PRIMARY KEY (group_id, member_id),
    CONSTRAINT group_members_group FOREIGN KEY (group_id) REFERENCES member_groups(id) ON DELETE CASCADE,
    CONSTRAINT group_members_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // `to_id` is '' for everybody.
  `CREATE TABLE grants (
    collection_id ${ID} NOT NULL,
    to_kind VARCHAR(10) NOT NULL,
    to_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    level VARCHAR(12) NOT NULL,
    PRIMARY KEY (collection_id, to_kind, to_id),
    KEY of_workspace (workspace_id),
    CONSTRAINT grants_collection FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `INSERT INTO grants (collection_id, to_kind, to_id, workspace_id, level)
    SELECT id, 'everybody', '', workspace_id, 'change' FROM collections
    WHERE owner_id IS NULL AND takes_part = 1`,
  // Who stands in for whom, from one day to another, both included.
  `CREATE TABLE deputies (
    member_id ${ID} PRIMARY KEY,
    deputy_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    from_day CHAR(10) NOT NULL,
    to_day CHAR(10) NOT NULL,
    KEY of_workspace (workspace_id),
    CONSTRAINT deputies_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE,
    CONSTRAINT deputies_deputy FOREIGN KEY (deputy_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // Secret addresses for somebody without an account. Only the hash of what stands in the address is stored.
  `CREATE TABLE links (
    id ${ID} PRIMARY KEY,
    token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    made_by ${ID} NOT NULL,
    name VARCHAR(100) NOT NULL,
    level VARCHAR(12) NOT NULL,
    weeks INT NOT NULL,
    made_at BIGINT NOT NULL,
    expires_at BIGINT NULL,
    used_at BIGINT NULL,
    KEY of_workspace (workspace_id),
    CONSTRAINT links_maker FOREIGN KEY (made_by) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE link_lists (
    link_id ${ID} NOT NULL,
    collection_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    PRIMARY KEY (link_id, collection_id),
    KEY by_list (collection_id),
    CONSTRAINT link_lists_link FOREIGN KEY (link_id) REFERENCES links(id) ON DELETE CASCADE,
    CONSTRAINT link_lists_list FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // Who shared what: written in the commit of the act itself.
  `CREATE TABLE sharing_log (
    id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    at BIGINT NOT NULL,
    member_id ${ID} NOT NULL,
    collection_id ${ID} NULL,
    body TEXT NOT NULL,
    KEY by_time (workspace_id, id),
    CONSTRAINT sharing_log_collection FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `ALTER TABLE own_layer ADD private TINYINT NULL`,
  // How private the item was when it was written: 0 open, 1 by its service's word, 2 marked here.
  `ALTER TABLE journal ADD privacy TINYINT NOT NULL DEFAULT 0`,
]
