/** Of more tasks than a shelf holds, those that are due first are found without reading the others. */

export const up: string[] = [
  // The last day a task counts as due on; those without one come after all others.
  `ALTER TABLE mirrors
    ADD due_on VARCHAR(10) AS (IF(open_task = 1, IFNULL(LEFT(COALESCE(JSON_VALUE(item, '$.due.date'),
      JSON_VALUE(item, '$.due.local')), 10), '9999-12-31'), NULL)) PERSISTENT,
    DROP KEY open_tasks,
    ADD KEY open_tasks (workspace_id, open_task, start_ms, due_on)`,
]
