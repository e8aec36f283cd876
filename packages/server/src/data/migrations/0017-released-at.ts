/** When a pair ended: the brake counts what went within a day, also where nothing is written for it. */
export const up: string[] = [
  'ALTER TABLE ties ADD released_at BIGINT NULL, ALGORITHM=INSTANT',
  'ALTER TABLE ties ADD KEY ended (workspace_id, released_at)',
]
