const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'
const ASCII = 'CHARACTER SET ascii COLLATE ascii_bin'
const TABLE = `ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin`

/**
 * Time that is offered to guests, and what they have booked. A quarter of an hour of one person is held once: the key
 * of `held_quarters` decides between two guests. `booking_events` says where each host's event was written last, so that
 * what was moved since is told apart.
 */
export const up: string[] = [
  `CREATE TABLE offers (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    made_by ${ID} NOT NULL,
    token_hash CHAR(64) ${ASCII} NOT NULL UNIQUE,
    token_sealed VARCHAR(255) ${ASCII} NOT NULL,
    terms MEDIUMTEXT NOT NULL,
    made_at BIGINT NOT NULL,
    ended_at BIGINT NULL,
    KEY of_workspace (workspace_id, made_at),
    CONSTRAINT offers_maker FOREIGN KEY (made_by) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // Nobody's time is offered without their yes.
  `CREATE TABLE offer_hosts (
    offer_id ${ID} NOT NULL,
    member_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    place TINYINT NOT NULL,
    into_list ${ID} NULL,
    agreed_at BIGINT NULL,
    PRIMARY KEY (offer_id, member_id),
    KEY of_workspace (workspace_id),
    CONSTRAINT offer_hosts_offer FOREIGN KEY (offer_id) REFERENCES offers(id) ON DELETE CASCADE,
    CONSTRAINT offer_hosts_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE bookings (
    id ${ID} NOT NULL PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    offer_id ${ID} NOT NULL,
    token_hash CHAR(64) ${ASCII} NOT NULL UNIQUE,
    token_sealed VARCHAR(255) ${ASCII} NOT NULL,
    asked_as VARCHAR(64) ${ASCII} NOT NULL,
    state VARCHAR(8) ${ASCII} NOT NULL,
    why VARCHAR(12) ${ASCII} NULL,
    start_ms BIGINT NOT NULL,
    end_ms BIGINT NOT NULL,
    guest MEDIUMTEXT NOT NULL,
    sequence INT NOT NULL DEFAULT 0,
    told INT NOT NULL DEFAULT -1,
    tell_at BIGINT NOT NULL DEFAULT 0,
    made_at BIGINT NOT NULL,
    expires_at BIGINT NOT NULL,
    UNIQUE KEY asked (offer_id, asked_as),
    KEY of_workspace (workspace_id),
    KEY ahead (state, end_ms),
    CONSTRAINT bookings_offer FOREIGN KEY (offer_id) REFERENCES offers(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE booking_events (
    booking_id ${ID} NOT NULL,
    member_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    uid VARCHAR(64) ${ASCII} NOT NULL,
    mirror_id ${ID} NULL,
    wrote_ms BIGINT NULL,
    wrote_end BIGINT NULL,
    gave_way TEXT NULL,
    PRIMARY KEY (booking_id, member_id),
    KEY of_workspace (workspace_id),
    CONSTRAINT booking_events_booking FOREIGN KEY (booking_id) REFERENCES bookings(id) ON DELETE CASCADE,
    CONSTRAINT booking_events_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  `CREATE TABLE held_quarters (
    member_id ${ID} NOT NULL,
    quarter INT NOT NULL,
    booking_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    PRIMARY KEY (member_id, quarter),
    KEY of_booking (booking_id),
    KEY of_workspace (workspace_id),
    CONSTRAINT held_booking FOREIGN KEY (booking_id) REFERENCES bookings(id) ON DELETE CASCADE,
    CONSTRAINT held_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
