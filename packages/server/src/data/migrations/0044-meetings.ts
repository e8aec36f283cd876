const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const ASCII = 'CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * Events whose guests are told by us: as they were told last, the letters that are still to go, and what guests have
 * answered. A meeting is known by its UID, whichever of our lists its event is in; `object` is its text as it was told. Events with guests from before are taken as told: nobody is written to about what stood already.
 */
export const up: string[] = [
  `CREATE TABLE meetings (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    uid VARCHAR(500) NOT NULL,
    token VARCHAR(40) ${ASCII} NOT NULL,
    organizer_id ${ID} NULL,
    told MEDIUMTEXT NULL,
    object MEDIUMTEXT NULL,
    from_before TINYINT NOT NULL DEFAULT 0,
    elsewhere TINYINT NOT NULL DEFAULT 0,
    pending CHAR(64) ${ASCII} NULL,
    pending_at BIGINT NOT NULL DEFAULT 0,
    UNIQUE KEY token (token),
    KEY of_workspace (workspace_id)
  ) ${TABLE}`,
  `INSERT IGNORE INTO meetings (id, workspace_id, uid, token, from_before)
     SELECT LEFT(SHA2(CONCAT(m.workspace_id, ' ', m.uid), 256), 32), m.workspace_id, m.uid, LEFT(SHA2(RANDOM_BYTES(32), 256), 40), 1
     FROM mirrors m JOIN connections n ON n.id = m.connection_id
     WHERE n.kind = 'own' AND m.kind = 'event' AND m.series_id IS NULL AND m.presence = 'present'
       AND IFNULL(JSON_VALUE(m.item, '$.attendees'), 0) > 0`,
  // Of a meeting of ours; or, without one, what somebody answers to another's.
  `CREATE TABLE meeting_letters (
    id ${ID} NOT NULL PRIMARY KEY,
    meeting_id ${ID} NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    made_at BIGINT NOT NULL,
    next_at BIGINT NOT NULL,
    failures INT NOT NULL DEFAULT 0,
    letter MEDIUMTEXT NOT NULL,
    KEY due (next_at, made_at),
    KEY of_workspace (workspace_id),
    CONSTRAINT letter_meeting FOREIGN KEY (meeting_id) REFERENCES meetings(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE meeting_answers (
    meeting_id ${ID} NOT NULL,
    email VARCHAR(320) NOT NULL,
    recurrence VARCHAR(100) ${ASCII} NOT NULL DEFAULT '',
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    sequence INT NOT NULL,
    stamp_ms BIGINT NOT NULL,
    answer VARCHAR(10) ${ASCII} NOT NULL,
    comment TEXT NOT NULL,
    proposed_ms BIGINT NULL,
    proposed_end BIGINT NULL,
    waits TINYINT NOT NULL,
    PRIMARY KEY (meeting_id, email, recurrence, waits),
    KEY of_workspace (workspace_id),
    CONSTRAINT answer_meeting FOREIGN KEY (meeting_id) REFERENCES meetings(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE received_invitations (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL,
    uid VARCHAR(500) NOT NULL,
    recurrence VARCHAR(100) ${ASCII} NOT NULL,
    method VARCHAR(10) ${ASCII} NOT NULL,
    sequence INT NOT NULL,
    stamp_ms BIGINT NOT NULL,
    sender VARCHAR(320) NOT NULL,
    proven TINYINT NOT NULL,
    object MEDIUMTEXT NOT NULL,
    answer VARCHAR(10) ${ASCII} NOT NULL,
    kept TINYINT NOT NULL,
    is_as_kept TINYINT NOT NULL,
    received_at BIGINT NOT NULL,
    KEY of_member (member_id, received_at),
    KEY of_workspace (workspace_id),
    KEY old (received_at),
    CONSTRAINT received_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
