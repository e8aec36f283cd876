/** Blocks, batches, more of our own layer, items left out of a plan, settings, saved views, moves. */
const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

export const up: string[] = [
  // A task has any number of blocks, and a batch any number of tasks; only of the pair a rule makes is there one.
  `ALTER TABLE ties
    ADD one_pair TINYINT AS (IF(released IS NULL AND role = 'mirror', 1, NULL)) PERSISTENT,
    ADD one_block TINYINT AS (IF(released IS NULL AND role <> 'batch', 1, NULL)) PERSISTENT,
    ADD one_of_batch TINYINT AS (IF(released IS NULL AND role = 'batch', 1, NULL)) PERSISTENT`,
  `ALTER TABLE ties
    DROP KEY one_active_a, DROP KEY one_active_b, DROP active,
    ADD UNIQUE KEY one_pair_a (rule_id, a_mirror, one_pair),
    ADD UNIQUE KEY one_block_b (rule_id, b_mirror, one_block),
    ADD UNIQUE KEY once_in_batch (a_mirror, b_mirror, one_of_batch)`,
  // The rule that work blocks and batches follow their tasks by, where no other rule pairs the task.
  `ALTER TABLE rules ADD own TINYINT NOT NULL DEFAULT 0`,
  `ALTER TABLE own_layer
    ADD week_of VARCHAR(10) NULL,
    ADD put_by VARCHAR(10) NULL,
    ADD spent TINYINT NOT NULL DEFAULT 0,
    ADD movable TINYINT NULL,
    ADD event_kind VARCHAR(16) NULL`,
  `CREATE TABLE left_out (
    member_id ${ID} NOT NULL,
    mirror_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL,
    PRIMARY KEY (member_id, mirror_id),
    KEY by_mirror (mirror_id),
    CONSTRAINT left_out_mirror FOREIGN KEY (mirror_id) REFERENCES mirrors(id) ON DELETE CASCADE,
    CONSTRAINT left_out_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `ALTER TABLE members ADD settings LONGTEXT NOT NULL DEFAULT '{}'`,
  `CREATE TABLE views (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL,
    member_id ${ID} NULL,
    made_by ${ID} NOT NULL,
    name VARCHAR(100) NOT NULL,
    icon VARCHAR(32) NOT NULL,
    body LONGTEXT NOT NULL,
    version INT NOT NULL DEFAULT 1,
    place INT NOT NULL DEFAULT 0,
    KEY by_workspace (workspace_id, member_id)
  ) ${TABLE}`,
  // Of all writes there ever were, those still open are asked for all the time.
  `ALTER TABLE intents ADD KEY still_open (workspace_id, state), ADD KEY open_anywhere (state, next_try_at)`,
  // What searching looks through: title and the beginning of the notes, in small letters.
  `ALTER TABLE mirrors ADD words VARCHAR(600) NOT NULL DEFAULT ''`,
  `UPDATE mirrors SET words = LEFT(LOWER(CONCAT(IFNULL(JSON_VALUE(item, '$.summary'), ''), ' ',
    IFNULL(JSON_VALUE(item, '$.description'), ''))), 600)`,
  `ALTER TABLE mirrors ADD KEY search (workspace_id, presence, words)`,
  // Moving an item to another list is a copy and then a removal; each step can be gone on with after a crash.
  `CREATE TABLE moves (
    intent_id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL,
    root ${ID} NOT NULL,
    from_mirror ${ID} NOT NULL,
    parent_from ${ID} NULL,
    to_mirror ${ID} NULL,
    KEY by_root (root),
    KEY by_from (from_mirror)
  ) ${TABLE}`,
]
