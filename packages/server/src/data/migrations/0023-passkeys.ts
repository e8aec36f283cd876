const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const HASH = 'CHAR(64) CHARACTER SET ascii COLLATE ascii_bin'

/** Passkeys (WebAuthn): found by the hash of their id, which may be a thousand bytes long. */
export const up: string[] = [
  `CREATE TABLE passkeys (
    id ${ID} PRIMARY KEY,
    credential_hash ${HASH} NOT NULL UNIQUE,
    credential_id TEXT CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    user_id ${ID} NOT NULL REFERENCES users(id),
    public_key TEXT CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    counter BIGINT NOT NULL,
    transports VARCHAR(200) NOT NULL,
    name VARCHAR(100) NOT NULL,
    made_at BIGINT NOT NULL,
    used_at BIGINT NULL,
    KEY of_user (user_id)
  ) ${TABLE}`,
]
