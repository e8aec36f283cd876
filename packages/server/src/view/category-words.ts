import { CategoryNames, type Said } from '@loom/core'
import type { Sql } from '../data/database.ts'
import { categoriesOf, categoryWordsUsed } from '../data/repositories/categories.ts'

/** Categories as people name them, in the words of the service that they are written to. */

interface Where {
  workspaceId: string
  connectionId: string
  /** What the item says already. */
  present: readonly string[]
}

export async function inWordsOf<S extends Pick<Said, 'categories'>>(
  sql: Sql,
  said: S,
  { workspaceId, connectionId, present }: Where,
): Promise<S> {
  if (!said.categories?.length) return said
  const known = await categoriesOf(sql, { workspaceId })
  if (known.length === 0) return said
  const names = new CategoryNames(known)
  const isMixed = said.categories.some(name => (names.of(name)?.words.length ?? 0) > 0)
  const used = isMixed
    ? await categoryWordsUsed(sql, { workspaceId, connectionId, lists: null, marked: [] })
    : []
  const words = used.map(u => u.word)
  return { ...said, categories: [...new Set(said.categories.map(n => names.toWrite(n, present, words)))] }
}
