import { reaches } from './level.ts'
import { type Grant, type Onlooker, sightOf } from './sight.ts'

/** A saved view, as far as its sharing goes. `owner`: null where whose it was has left. */
export interface SharedView {
  owner: string | null
  grants: readonly Grant[]
}

/**
 * What somebody may do with a saved view, by the same words as with lists: `look` is to use it, `own` is to say whom
 * it is for. A view is a way of looking: nothing comes into sight by it. One that was granted to nobody is private, to
 * deputies and coordinators as well.
 */
export type ViewRight = 'none' | 'look' | 'change' | 'own'

export function viewRight(who: Onlooker, { owner, grants }: SharedView): ViewRight {
  if (owner === who.id) return 'own'
  if (grants.length === 0) return 'none'
  const { open, owns } = sightOf(who, { owner, grants, asBefore: false })
  if (owns && who.role !== 'reader') return 'own'
  return reaches(open, 'change') ? 'change' : reaches(open, 'everything') ? 'look' : 'none'
}
