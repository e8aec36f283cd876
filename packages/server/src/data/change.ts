/** What a change concerns; clients ask again for what they show of it. */
export const TOPICS = [
  'cloth',
  'categories',
  'journal',
  'rules',
  'connections',
  'views',
  'team',
  'reminders',
  'invitations',
] as const
export type Topic = (typeof TOPICS)[number]

export interface Change {
  topics: Topic[]
  /** An edit of this member was not taken by its service. */
  refused?: { memberId: string; title: string; reason: string }
  /** Nobody but this member hears of it. */
  only?: string
  /**
   * Of the Cloth, only the numbered items, their tied items, and the edits under way have changed. Everything else
   * that was read before is still valid.
   */
  exact?: true
  /** Lists and calendars that it concerns beside its items: where something is being made, say. */
  lists?: string[]
  /** The connection that it is about, and nothing else; where lists are named, those of it. */
  connection?: string
}

/** What a transaction changes, told while it works and numbered when it is about to end. */
export interface ChangeToTell {
  workspaceId: string
  change: Change
  mirrorIds: readonly string[]
}
