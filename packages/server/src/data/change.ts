/** What a change concerns; clients ask again for what they show of it. */
export const TOPICS = ['cloth', 'journal', 'rules', 'connections', 'views'] as const
export type Topic = (typeof TOPICS)[number]

export interface Change {
  topics: Topic[]
  /** An edit of this member was not taken by its service. */
  refused?: { memberId: string; title: string; reason: string }
  /**
   * Of the Cloth, nothing is another than the items that are numbered with it, what is tied to them, and what people
   * have under way: the rest of what was read before is as good as new.
   */
  exact?: true
}

/** What a transaction changes, told while it works and numbered when it is about to end. */
export interface ChangeToTell {
  workspaceId: string
  change: Change
  mirrorIds: readonly string[]
}
