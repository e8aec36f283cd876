const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

export const up: string[] = [
  // Where a copy came from, and how its new home had taken it: so that it can go back with all it had.
  `CREATE TABLE moved (
    mirror_id ${ID} PRIMARY KEY,
    from_mirror ${ID} NOT NULL,
    arrived MEDIUMTEXT NOT NULL,
    KEY by_from (from_mirror),
    CONSTRAINT moved_mirror FOREIGN KEY (mirror_id) REFERENCES mirrors(id) ON DELETE CASCADE,
    CONSTRAINT moved_from FOREIGN KEY (from_mirror) REFERENCES mirrors(id) ON DELETE CASCADE
  ) ${TABLE}`,
]
