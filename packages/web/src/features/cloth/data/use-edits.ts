import { type ClothItem, type Edit, type Making, MOVES, shownAfter, standingText } from '@loom/core/view'
import { useQueryCache } from '@pinia/colada'
import { answer, api, Refused } from '../../../api/client.ts'
import { useLiveState } from '../../../stores/live-state.ts'
import { say } from '../../../stores/messages.ts'
import { useSession } from '../../../stores/session.ts'
import { lostWords, takeBackMade } from '../../../stores/take-back.ts'
import { whenReached } from '../../../stores/unsent.ts'
import type { Days } from './use-days.ts'
import { editWords, meanwhileWords } from './words.ts'

/** Which dates of a series an edit is for. */
export type Which = 'one' | 'onward' | 'all'

/** What is worked, or done, is written down in the ledger as well. */
const SAYS_TIME: ReadonlySet<Edit['do']> = new Set(['spend', 'complete', 'reopen'])

/** All changes to the Cloth: shown at once, sent in order, reported, and undone where possible. */
export function useEdits({ data, overlay, itemOf, show, refresh }: Days) {
  const session = useSession()
  const cache = useQueryCache()
  const live = useLiveState()

  /** Said once, where it was tried. */
  function isRefused(): boolean {
    if (!session.onlyLooks) return false
    say({ text: 'You are a reader here: you see this workspace and change nothing in it.' })
    return true
  }

  const underway = new Map<string, Promise<Edit | null>>()

  /** Returns what takes it back; null when nothing does, or it was refused, which is said. */
  async function edit(item: ClothItem, what: Edit, which?: Which, silent = false): Promise<Edit | null> {
    const d = data.value
    if (!d || isRefused()) return null
    const after = shownAfter(item, what, { ...d, now: session.now() })
    if (!which || which === 'one') {
      overlay.show(after)
      show(after)
    }
    // One after the other, in the order in which they were made.
    const turn = (underway.get(item.key) ?? Promise.resolve(null)).then(() =>
      send(item, after, what, which, silent),
    )
    underway.set(item.key, turn)
    live.editsUnderway++
    const inverse = await turn.finally(() => live.editsUnderway--)
    if (underway.get(item.key) === turn) {
      underway.delete(item.key)
      overlay.settle(item.key)
      if (live.editsUnderway === 0) refresh()
    }
    return inverse
  }

  async function editMany(
    all: readonly { item: ClothItem; edit: Edit }[],
    said: string,
    silent = false,
  ): Promise<void> {
    const done = await Promise.all(
      all.map(async ({ item, edit: what }) => ({ item, edit: await edit(item, what, undefined, true) })),
    )
    const back = done.flatMap(({ item, edit: e }) => (e ? [{ item: itemOf(item.key) ?? item, edit: e }] : []))
    if (back.length > 0 && !silent)
      say({
        text: said,
        undo: () => void editMany(back, '', true),
        back: {
          do: 'edits',
          title: said,
          edits: back.map(({ item, edit: e }) => ({ key: item.key, edit: e })),
        },
      })
  }

  async function send(
    item: ClothItem,
    after: ClothItem,
    what: Edit,
    which: Which | undefined,
    silent: boolean,
  ): Promise<Edit | null> {
    const d = data.value
    if (!d) return null
    const param = { key: item.key }
    try {
      // What is taken back goes to where it was, wherever it is now.
      const query = silent || !MOVES.has(what.do) ? {} : { was: standingText(item) }
      const { inverse, meanwhile } = await whenReached(async () =>
        which
          ? {
              ...(await answer(() => api.cloth[':key'].series.$post({ param, json: { edit: what, which } }))),
              meanwhile: null,
            }
          : answer(() => api.cloth[':key'].edit.$post({ param, query, json: what })),
      )
      if (SAYS_TIME.has(what.do)) void cache.invalidateQueries({ key: ['time'] })
      if (silent) return inverse
      const text = `${editWords(after, what, d)}${meanwhileWords(after, meanwhile, d)}`
      if (!inverse) {
        say({ text })
        return null
      }
      const back = inverse.do === 'series-back' ? 'one' : undefined
      const target = inverse.do === 'restore' ? { ...item, key: item.key.split('@')[0] ?? item.key } : null
      say({
        text,
        undo: () => void edit(target ?? itemOf(item.key) ?? after, inverse, back, true),
        back: {
          do: 'edits',
          title: item.title,
          edits: [{ key: (target ?? item).key, edit: inverse, ...(back && { which: back }) }],
        },
      })
      return inverse
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      overlay.forget(item.key)
      show(item)
      say({ text: `${item.title}: not changed. ${error.message}`, tone: 'wrong' })
      return null
    }
  }

  async function tried<T>(title: string, act: () => Promise<T>): Promise<T | null> {
    live.editsUnderway++
    try {
      return await whenReached(act)
    } catch (error) {
      if (!(error instanceof Refused)) throw error
      say({ text: `${title}: ${error.message}`, tone: 'wrong' })
      return null
    } finally {
      live.editsUnderway--
      refresh()
    }
  }

  async function make(making: Making, said: string) {
    if (isRefused()) return null
    const made = await tried('Not made', () => answer(() => api.cloth.make.$post({ json: making })))
    const title = making.title ?? (making.what === 'block' ? itemOf(making.task)?.title : null) ?? 'It'
    if (made)
      say({
        text: `${said}${lostWords(made.lost)}`,
        undo: () => void takeBackMade(made.intent, title),
        back: { do: 'made', title, intent: made.intent },
      })
    return made
  }

  async function setBatch(batch: ClothItem, tasks: string[], said: string, silent = false): Promise<void> {
    const held = new Map(batch.batch.map(t => [t.key, t]))
    const lines = tasks.flatMap(key => {
      const known = held.get(key)
      const task = itemOf(key)
      return known ?? (task ? { key, title: task.title, done: task.done, completable: task.completable } : [])
    })
    show({ ...batch, batch: lines })
    const param = { key: batch.key }
    const done = await tried(batch.title, () =>
      answer(() => api.cloth[':key'].batch.$put({ param, json: { tasks } })),
    )
    if (done && !silent)
      say({
        text: said,
        undo: () => void setBatch(itemOf(batch.key) ?? batch, done.before, '', true),
        back: { do: 'batch', title: batch.title, key: batch.key, tasks: done.before },
      })
  }

  async function duplicate(item: ClothItem): Promise<void> {
    const made = await tried(item.title, () =>
      answer(() => api.cloth[':key'].duplicate.$post({ param: { key: item.key }, json: { start: null } })),
    )
    if (made)
      say({
        text: `${item.title}: copied in ${made.place}.`,
        undo: () => void takeBackMade(made.intent, item.title),
        back: { do: 'made', title: item.title, intent: made.intent },
      })
  }

  return {
    edit: async (item: ClothItem, what: Edit, which?: Which) => void (await edit(item, what, which)),
    /** Several at once, said and undone as one. */
    editMany: (all: readonly { item: ClothItem; edit: Edit }[], said: string) => editMany(all, said),
    /** Null when it was refused, which is said. */
    make,
    setBatch: (batch: ClothItem, tasks: string[], said: string) => setBatch(batch, tasks, said),
    duplicate,
  }
}
