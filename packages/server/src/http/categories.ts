import { zValidator } from '@hono/zod-validator'
import {
  type Category,
  CategoryChange,
  CategoryNames,
  changedCategories,
  isOurMark,
  MOST_CATEGORIES,
  MOST_WORDS,
} from '@loom/core'
import { Hono } from 'hono'
import type { Context } from '../context/context.ts'
import { sightIn } from '../access/sight.ts'
import { categoriesOf, categoryWordsUsed, putCategories } from '../data/repositories/categories.ts'
import { lockWorkspace } from '../data/repositories/workspaces.ts'
import type { SignedIn } from './session.ts'

/** Categories as the team names and dyes them, and what each service calls them. */

interface CategoryLine extends Category {
  count: number
  there: { word: string; connection: string; count: number }[]
}

export function categoryRoutes(ctx: Context) {
  return new Hono<SignedIn>()
    .get('/', async c => {
      const { workspaceId } = c.get('member')
      const { known, used } = await ctx.db.snapshot(async sql => {
        const { open: lists, marked } = (await sightIn(sql, c.get('member'))).wholeLists()
        return {
          known: await categoriesOf(sql, { workspaceId }),
          used: await categoryWordsUsed(sql, { workspaceId, connectionId: null, lists, marked }),
        }
      })
      const names = new CategoryNames(known)
      const lines = new Map<string, CategoryLine>(known.map(k => [k.name, { ...k, count: 0, there: [] }]))
      for (const { word, connection, count } of used) {
        if (isOurMark(word)) continue
        const name = names.nameOf(word)
        const line = lines.get(name) ?? { name, dye: null, words: [], count: 0, there: [] }
        line.count += count
        line.there.push({ word, connection, count })
        lines.set(name, line)
      }
      const all = [...lines.values()].sort((x, y) => x.name.localeCompare(y.name))
      return c.json({ categories: all })
    })
    .post('/change', zValidator('json', CategoryChange), async c => {
      const { workspaceId } = c.get('member')
      const change = c.req.valid('json')
      const outcome = await ctx.db.commit(async sql => {
        await lockWorkspace(sql, { workspaceId })
        const before = await categoriesOf(sql, { workspaceId })
        // What others have named meanwhile is not lost.
        if (change.do === 'restore' && !isSameList(before, change.after)) return 'changed' as const
        const after = change.do === 'restore' ? change.categories : changedCategories(before, change)
        if (after.length > MOST_CATEGORIES || after.some(c => c.words.length > MOST_WORDS))
          return 'full' as const
        await putCategories(sql, { workspaceId, categories: after })
        sql.tell(workspaceId, { topics: ['cloth', 'categories'] })
        return { before, after }
      })
      if (outcome === 'changed')
        return c.json({ reason: 'Somebody has changed categories since, so this is not taken back.' }, 409)
      const bounds = `No more than ${MOST_CATEGORIES} categories can be named, each for ${MOST_WORDS} words.`
      if (outcome === 'full') return c.json({ reason: bounds }, 422)
      return c.json(outcome)
    })
}

const isSameList = (one: readonly Category[], other: readonly Category[]): boolean => {
  const inOrder = (all: readonly Category[]): string =>
    JSON.stringify(all.map(({ name, dye, words }) => [name, dye, words]).sort())
  return inOrder(one) === inOrder(other)
}
