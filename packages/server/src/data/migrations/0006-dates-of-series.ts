const TABLE = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin'
const ID = 'VARCHAR(36) CHARACTER SET ascii COLLATE ascii_bin'

/**
 * Each date of a series that a rule pairs has a mirror of its own. Its presence is `date` instead of `present`,
 * because only rules use it. Rules are planned again as days pass.
 */
export const up: string[] = [
  `ALTER TABLE mirrors
    ADD series_id ${ID} NULL,
    ADD occurrence VARCHAR(32) NULL,
    ADD KEY by_series (series_id),
    ADD CONSTRAINT mirrors_series FOREIGN KEY (series_id) REFERENCES mirrors(id) ON DELETE CASCADE`,
  `CREATE TABLE unrolled (
    series_id ${ID} PRIMARY KEY,
    workspace_id ${ID} NOT NULL,
    seq BIGINT NOT NULL,
    as_of BIGINT NOT NULL,
    KEY of_workspace (workspace_id),
    CONSTRAINT unrolled_series FOREIGN KEY (series_id) REFERENCES mirrors(id) ON DELETE CASCADE
  ) ${TABLE}`,
  // A task is once in each date of a batch that repeats.
  `ALTER TABLE ties
    ADD batch_date VARCHAR(32) AS (IF(role = 'batch', IFNULL(JSON_VALUE(memory, '$.occurrence'), ''), NULL)) PERSISTENT,
    DROP KEY once_in_batch,
    ADD UNIQUE KEY once_in_batch (a_mirror, b_mirror, one_of_batch, batch_date)`,
  `ALTER TABLE rules ADD anew_at BIGINT NOT NULL DEFAULT 0`,
]
