const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const HASH = 'CHAR(64) CHARACTER SET ascii COLLATE ascii_bin'

/** Who a user is at an identity provider: the hash of the issuer and the subject, which keep it for ever. */
export const up: string[] = [
  `CREATE TABLE identities (
    subject_hash ${HASH} PRIMARY KEY,
    user_id ${ID} NOT NULL,
    made_at BIGINT NOT NULL,
    KEY of_user (user_id),
    CONSTRAINT identities_user FOREIGN KEY (user_id) REFERENCES users(id)
  ) ${TABLE}`,
]
