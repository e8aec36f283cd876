/** What lies in one week is found by the week, however much is stored besides. */

export const up: string[] = [
  // What lasts longer than a week and a day, or repeats, may lie in a week without beginning near it.
  `ALTER TABLE mirrors
    ADD far_reaching TINYINT AS (IF(recurring = 1 OR end_ms - start_ms > 691200000, 1, NULL)) PERSISTENT,
    ADD KEY far_reaching (workspace_id, far_reaching, start_ms),
    DROP KEY open_tasks,
    ADD KEY open_tasks (workspace_id, open_task, start_ms)`,
]
