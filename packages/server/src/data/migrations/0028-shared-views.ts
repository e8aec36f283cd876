const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/** Saved views belong to whoever made them and are granted, like lists; a guest's address may show one. */
export const up: string[] = [
  `CREATE TABLE view_grants (
    view_id ${ID} NOT NULL,
    to_kind VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    to_id ${ID} NOT NULL,
    workspace_id ${ID} NOT NULL REFERENCES workspaces(id),
    level VARCHAR(10) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
    PRIMARY KEY (view_id, to_kind, to_id),
    KEY of_workspace (workspace_id),
    CONSTRAINT view_grants_view FOREIGN KEY (view_id) REFERENCES views(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // The team's were everybody's to change, and stay so. Whose maker has left is looked after by coordinators.
  `INSERT INTO view_grants (view_id, to_kind, to_id, workspace_id, level)
     SELECT id, 'everybody', '', workspace_id, 'change' FROM views WHERE member_id IS NULL`,
  `UPDATE views v JOIN members m ON m.id = v.made_by AND m.left_at IS NULL
     SET v.member_id = v.made_by WHERE v.member_id IS NULL`,
  // As the view was when the address was made: who changes it later shows a guest nothing more.
  `ALTER TABLE links ADD view LONGTEXT NULL`,
]
