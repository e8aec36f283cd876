const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/** What several people do together: what is asked of others, what is said about items, who is there. */
export const up: string[] = [
  // Of one list or calendar, or of all that a member owns.
  `CREATE TABLE requests (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    made_by ${ID} NOT NULL,
    made_at BIGINT NOT NULL,
    collection_id ${ID} NULL,
    mirror_id ${ID} NULL,
    of_member ${ID} NULL,
    body TEXT NOT NULL,
    state VARCHAR(10) NOT NULL,
    answered_by ${ID} NULL,
    answered_at BIGINT NULL,
    reason VARCHAR(300) NULL,
    KEY of_workspace (workspace_id, state),
    KEY of_mirror (mirror_id),
    CONSTRAINT requests_maker FOREIGN KEY (made_by) REFERENCES members(id) ON DELETE CASCADE,
    CONSTRAINT requests_member FOREIGN KEY (of_member) REFERENCES members(id) ON DELETE CASCADE,
    CONSTRAINT requests_list FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // \`privacy\`: how private the item was when it was said, as in the journal.
  `CREATE TABLE comments (
    id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    collection_id ${ID} NOT NULL,
    mirror_id ${ID} NOT NULL,
    made_by ${ID} NOT NULL,
    made_at BIGINT NOT NULL,
    changed_at BIGINT NULL,
    privacy TINYINT NOT NULL DEFAULT 0,
    body VARCHAR(4000) NOT NULL,
    KEY of_mirror (mirror_id, made_at),
    KEY of_workspace (workspace_id, made_at),
    CONSTRAINT comments_maker FOREIGN KEY (made_by) REFERENCES members(id) ON DELETE CASCADE,
    CONSTRAINT comments_list FOREIGN KEY (collection_id) REFERENCES collections(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // Who is named in it; \`told_at\`: when a letter about it went, or it was seen before one did.
  `CREATE TABLE comment_names (
    comment_id ${ID} NOT NULL,
    member_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    made_at BIGINT NOT NULL,
    told_at BIGINT NULL,
    PRIMARY KEY (comment_id, member_id),
    KEY untold (told_at, made_at),
    CONSTRAINT comment_names_comment FOREIGN KEY (comment_id) REFERENCES comments(id) ON DELETE CASCADE,
    CONSTRAINT comment_names_member FOREIGN KEY (member_id) REFERENCES members(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // Which days somebody has open now: one row for each page, forgotten soon after it was last heard of.
  `CREATE TABLE presence (
    page_id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL,
    member_id ${ID} NOT NULL,
    from_day CHAR(10) NOT NULL,
    to_day CHAR(10) NOT NULL,
    seen_at BIGINT NOT NULL,
    KEY of_workspace (workspace_id, seen_at)
  ) ${TABLE}`,
]
