/** A workspace that was deleted is out of reach at once; its rows go in parts. */
export const up: string[] = ['ALTER TABLE workspaces ADD deleted_at BIGINT NULL']
