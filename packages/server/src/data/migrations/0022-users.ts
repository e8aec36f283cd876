const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const HASH = 'CHAR(64) CHARACTER SET ascii COLLATE ascii_bin'

/**
 * A person signs in as a user and may be a member of several workspaces. Whoever was a member is a user of the same id,
 * and a coordinator, because everybody could do everything.
 */
export const up: string[] = [
  `CREATE TABLE users (
    id ${ID} PRIMARY KEY,
    email VARCHAR(320) NOT NULL UNIQUE,
    password_hash VARCHAR(255) NOT NULL,
    made_at BIGINT NOT NULL
  ) ${TABLE}`,
  `INSERT INTO users (id, email, password_hash, made_at)
    SELECT id, email, password_hash, UNIX_TIMESTAMP() * 1000 FROM members`,
  `ALTER TABLE members
    ADD user_id ${ID} NULL,
    ADD role VARCHAR(12) NOT NULL DEFAULT 'coordinator',
    ADD joined_at BIGINT NOT NULL DEFAULT 0,
    ADD left_at BIGINT NULL`,
  `UPDATE members SET user_id = id, joined_at = UNIX_TIMESTAMP() * 1000`,
  `ALTER TABLE members
    DROP INDEX email,
    DROP COLUMN password_hash,
    MODIFY user_id ${ID} NOT NULL,
    ALTER role DROP DEFAULT,
    ALTER joined_at DROP DEFAULT,
    ADD UNIQUE KEY one_membership (workspace_id, user_id),
    ADD KEY of_user (user_id),
    ADD CONSTRAINT members_user FOREIGN KEY (user_id) REFERENCES users(id)`,
  `ALTER TABLE sessions
    ADD id ${ID} NULL,
    ADD user_id ${ID} NULL,
    ADD device VARCHAR(300) NOT NULL DEFAULT '',
    ADD made_at BIGINT NOT NULL DEFAULT 0,
    ADD used_at BIGINT NOT NULL DEFAULT 0`,
  `UPDATE sessions SET id = UUID(), user_id = member_id, made_at = UNIX_TIMESTAMP() * 1000, used_at = UNIX_TIMESTAMP() * 1000`,
  `ALTER TABLE sessions
    MODIFY id ${ID} NOT NULL,
    MODIFY user_id ${ID} NOT NULL,
    ADD UNIQUE KEY by_id (id),
    ADD KEY by_user (user_id),
    ADD CONSTRAINT sessions_user FOREIGN KEY (user_id) REFERENCES users(id)`,
  // Only the hash of what stands in the address is stored.
  `CREATE TABLE entry_links (
    token_hash ${HASH} PRIMARY KEY,
    id ${ID} NOT NULL UNIQUE,
    purpose VARCHAR(12) NOT NULL,
    workspace_id ${ID} NULL REFERENCES workspaces(id),
    user_id ${ID} NULL REFERENCES users(id),
    email VARCHAR(320) NULL,
    role VARCHAR(12) NULL,
    made_by ${ID} NULL REFERENCES members(id),
    made_at BIGINT NOT NULL,
    expires_at BIGINT NOT NULL,
    KEY of_workspace (workspace_id, purpose),
    KEY of_user (user_id)
  ) ${TABLE}`,
]
