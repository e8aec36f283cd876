const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/** One-time codes (RFC 6238) beside the password, and workspaces that want more than a password. */
export const up: string[] = [
  // The secret is sealed; without `totp_at` it was shown and not confirmed. `totp_step`: the last one that was taken.
  `ALTER TABLE users ADD totp_secret VARCHAR(500) NULL, ADD totp_at BIGINT NULL,
     ADD totp_step BIGINT NOT NULL DEFAULT 0`,
  `CREATE TABLE recovery_codes (
    code_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    user_id ${ID} NOT NULL,
    PRIMARY KEY (user_id, code_hash),
    CONSTRAINT recovery_codes_user FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `ALTER TABLE workspaces ADD wants_second TINYINT NOT NULL DEFAULT 0`,
  // Begun by a passkey, or a code was given in it.
  `ALTER TABLE sessions ADD proven TINYINT NOT NULL DEFAULT 0`,
]
