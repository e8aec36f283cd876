import type { Said } from './edit.ts'

/** What each field of an item is called in a sentence. */
export const SAID_WORDS: Record<keyof Said, string> = {
  summary: 'another title',
  description: 'notes',
  location: 'a place',
  url: 'a link',
  categories: 'marks',
  priority: 'a priority',
  due: 'a due date',
  status: 'another status',
  transparency: 'busy or free',
  class: 'who sees it',
  assignees: 'assignee',
}
