/**
 * When a collection was first known in full, and when each of its items arrived. This tells what is new to a rule
 * from what was there before. The brake on creations names the item behind each creation.
 */
export const up: string[] = [
  'ALTER TABLE collections ADD baseline_at BIGINT NULL, ALGORITHM=INSTANT',
  'UPDATE collections SET baseline_at = synced_at',
  'ALTER TABLE mirrors ADD arrived_at BIGINT NOT NULL DEFAULT 0, ALGORITHM=INSTANT',
  'ALTER TABLE mirrors ADD KEY arrived (collection_id, arrived_at)',
  'ALTER TABLE rules ADD new_since BIGINT NOT NULL DEFAULT 0, ALGORITHM=INSTANT',
  'UPDATE rules SET new_since = enabled_at',
  'ALTER TABLE braked ADD mirror_id CHAR(36) NULL, ALGORITHM=INSTANT',
]
