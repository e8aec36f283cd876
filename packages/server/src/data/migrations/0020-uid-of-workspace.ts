/** What two workspaces make for the same item of a service bears the same uid; each has it open once. */
export const up: string[] = [
  `ALTER TABLE intents ADD UNIQUE KEY one_open_for_uid_here (workspace_id, uid, is_open),
     DROP KEY one_open_for_uid`,
]
