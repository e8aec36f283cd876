const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * What drafts have laid, and where: told apart by it from what a person put there. A block that no service has confirmed
 * yet is known by its tie alone. `kept_up` holds what was moved by itself, so that it can be looked at and put back.
 */
export const up: string[] = [
  `ALTER TABLE planning
     ADD keeps_up TINYINT AS (IF(LOCATE('"keepsUp":true', body) > 0, 1, 0)) VIRTUAL,
     ADD kept_at BIGINT NOT NULL DEFAULT 0`,
  `CREATE TABLE laid_pieces (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL,
    mirror_id ${ID} NULL,
    tie_id ${ID} NULL,
    task_id ${ID} NOT NULL,
    wrote_from BIGINT NOT NULL,
    wrote_to BIGINT NOT NULL,
    before_from BIGINT NULL,
    before_to BIGINT NULL,
    base_from BIGINT NULL,
    base_to BIGINT NULL,
    moves TEXT NOT NULL,
    held_for TEXT NULL,
    due BIGINT NULL,
    KEY of_member (member_id, wrote_to),
    KEY of_workspace (workspace_id),
    KEY of_mirror (mirror_id),
    CONSTRAINT laid_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE,
    CONSTRAINT laid_task FOREIGN KEY (task_id) REFERENCES mirrors(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE kept_up (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL,
    at BIGINT NOT NULL,
    body MEDIUMTEXT NOT NULL,
    undone_at BIGINT NULL,
    seen TINYINT NOT NULL DEFAULT 0,
    KEY of_member (member_id, at),
    KEY of_workspace (workspace_id),
    CONSTRAINT kept_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
