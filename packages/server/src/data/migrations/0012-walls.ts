const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/**
 * Columns as long as core's schemas allow; the trouble of a rule; first answers to repeated requests; and the
 * boundary version with which originals were read.
 */
export const up: string[] = [
  'ALTER TABLE mirrors MODIFY revision VARCHAR(1000) NOT NULL',
  'ALTER TABLE problems MODIFY revision VARCHAR(1000) NOT NULL',
  'ALTER TABLE ties MODIFY base LONGTEXT NOT NULL',
  `ALTER TABLE rules
    ADD trouble TEXT NULL,
    ADD failures INT NOT NULL DEFAULT 0,
    ADD next_pass_at BIGINT NOT NULL DEFAULT 0`,
  `ALTER TABLE connections
    MODIFY hook_secret TEXT NULL,
    ADD read_by INT NOT NULL DEFAULT 0`,
  'ALTER TABLE unrolled ADD too_often TINYINT NOT NULL DEFAULT 0',
  `CREATE TABLE installation (
    name VARCHAR(64) PRIMARY KEY,
    value TEXT NOT NULL
  ) ${TABLE}`,
  `CREATE TABLE limits (
    name VARCHAR(255) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
    points INT NOT NULL,
    expire BIGINT NOT NULL,
    KEY by_expire (expire)
  ) ${TABLE}`,
  `CREATE TABLE answered (
    member_id ${ID} NOT NULL,
    request_key VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    status INT NULL,
    body LONGTEXT NULL,
    made_at BIGINT NOT NULL,
    PRIMARY KEY (member_id, request_key),
    KEY by_time (made_at)
  ) ${TABLE}`,
]
