export const up: string[] = [
  // The planned time of what its service has no room for: a `When` as JSON, and when that begins, epoch ms.
  `ALTER TABLE own_layer
    ADD plan VARCHAR(200) NULL,
    ADD plan_ms BIGINT NULL,
    ADD plan_minutes INT NULL,
    ADD KEY planned (workspace_id, plan_ms)`,
]
