const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const ASCII = 'CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * What somebody was reminded of, each thing once: the key decides between two servers. What of it is still owed by mail
 * and to devices stands in `reminder_deliveries`, each with the moment until which somebody is at it. What it says is
 * not kept: it is told from what stands when it goes.
 */
export const up: string[] = [
  `ALTER TABLE planning
     ADD is_reminded TINYINT AS (IF(body REGEXP '"reminders":\\\\{[^{}]*("(plan|review|event|block|due|window)":[0-9]|"alarms":true)', 1, 0)) VIRTUAL`,
  `CREATE TABLE reminders (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL,
    name VARCHAR(160) ${ASCII} NOT NULL,
    about_ms BIGINT NOT NULL,
    given_at BIGINT NOT NULL,
    round INT NOT NULL DEFAULT 0,
    again_at BIGINT NULL,
    done_at BIGINT NULL,
    UNIQUE KEY once (member_id, name),
    KEY of_workspace (workspace_id),
    KEY later (again_at),
    KEY old (given_at),
    CONSTRAINT reminders_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE reminder_deliveries (
    reminder_id ${ID} NOT NULL,
    way VARCHAR(36) ${ASCII} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    next_at BIGINT NOT NULL,
    PRIMARY KEY (reminder_id, way),
    KEY of_workspace (workspace_id),
    KEY due (next_at),
    CONSTRAINT delivery_reminder FOREIGN KEY (reminder_id) REFERENCES reminders(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // Where a browser is told something while no page is open: it ends with the session in which it was asked for.
  `CREATE TABLE push_subscriptions (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    member_id ${ID} NOT NULL,
    session_id ${ID} NOT NULL,
    endpoint_hash CHAR(64) ${ASCII} NOT NULL,
    sealed TEXT NOT NULL,
    device VARCHAR(300) NOT NULL,
    made_at BIGINT NOT NULL,
    failures INT NOT NULL DEFAULT 0,
    UNIQUE KEY endpoint (endpoint_hash),
    KEY of_workspace (workspace_id),
    CONSTRAINT push_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE item_reminders (
    member_id ${ID} NOT NULL,
    item_key VARCHAR(80) ${ASCII} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    minutes INT NULL,
    PRIMARY KEY (member_id, item_key),
    KEY of_workspace (workspace_id),
    CONSTRAINT item_reminders_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
