import { durationWords } from '@loom/core/view'
import { useQuery, useQueryCache } from '@pinia/colada'
import type { InferResponseType } from 'hono/client'
import { computed } from 'vue'
import { answer, api, Refused } from '../api/client.ts'
import { say } from './messages.ts'

/** Time taken of the person who is signed in: the running clock, and entries as they are written and corrected. */

export type Entry = InferResponseType<typeof api.time.entries.$get, 200>['entries'][number]
type Added = Parameters<typeof api.time.entries.$post>[0]['json']
type Correction = Omit<Parameters<(typeof api.time.entries)[':id']['$patch']>[0]['json'], 'version'>

/** What is undone, or done where nothing beside it could say why not, says so itself. */
export async function sayIfRefused(work: () => Promise<unknown>): Promise<void> {
  try {
    await work()
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    say({ text: error.message, tone: 'wrong' })
  }
}

/** @param enabled asked for only then */
export function useClock(enabled: () => boolean = () => true) {
  const cache = useQueryCache()
  const query = useQuery({
    key: ['time', 'clock'],
    query: () => answer(() => api.time.clock.$get()),
    enabled,
  })
  const clock = computed(() => query.data.value?.clock ?? null)
  const anew = (): Promise<unknown> => cache.invalidateQueries({ key: ['time'] })

  const orSay = (work: () => Promise<void>): Promise<void> =>
    sayIfRefused(work)
      .then(anew)
      .then(() => undefined)
  const start = (item: { key: string; of: string | null; title: string }): Promise<void> =>
    orSay(async () => {
      await answer(() => api.time.clock.$post({ json: { item: item.key.split('@')[0] ?? item.key } }))
      say({ text: `${item.title}: the clock runs.` })
    })
  const stop = (): Promise<void> =>
    orSay(async () => {
      const was = clock.value
      const { entry } = await answer(() => api.time.clock.stop.$post())
      if (!was) return
      if (entry === null) {
        say({ text: `${was.title}: less than half a minute, nothing is written down.` })
        return
      }
      say({
        text: `${was.title}: ${durationWords(entry.minutes)} written down.`,
        undo: () =>
          void orSay(
            async () =>
              void (await answer(() => api.time.entries[':id'].$delete({ param: { id: entry.id } }))),
          ),
      })
    })
  return { clock, start, stop }
}

/** Minutes taken beside those of worked blocks, by item. */
export function useTaken() {
  const query = useQuery({ key: ['time', 'taken'], query: () => answer(() => api.time.taken.$get()) })
  return computed((): Record<string, number> => query.data.value?.taken ?? {})
}

/** Writing to one's ledger; each act says what it did, with a way back. Throws Refused. */
export function useEntries() {
  const cache = useQueryCache()
  const anew = (): Promise<unknown> => cache.invalidateQueries({ key: ['time'] })
  const put = async (entry: Pick<Entry, 'id' | 'version'>, to: Correction): Promise<number> => {
    const json = { version: entry.version, ...to }
    const { version } = await answer(() => api.time.entries[':id'].$patch({ param: { id: entry.id }, json }))
    return version
  }
  const back = (work: () => Promise<unknown>): Promise<unknown> => sayIfRefused(work).then(anew)
  async function add(entry: Added): Promise<void> {
    const { entry: made } = await answer(() => api.time.entries.$post({ json: entry }))
    await anew()
    const undo = (): void => void back(() => put(made, { withdrawn: true }))
    say({ text: `${made.about.title}: ${durationWords(made.counted)} written down.`, undo })
  }
  async function change(entry: Entry, to: Correction): Promise<void> {
    const version = await put(entry, to)
    await anew()
    const undo = (): void =>
      void back(() => put({ id: entry.id, version }, { time: entry.time, day: entry.day }))
    say({ text: `${entry.about.title}: changed.`, ...(to.time && { undo }) })
  }
  async function remove(entry: Entry): Promise<void> {
    const version = await put(entry, { withdrawn: true })
    await anew()
    const undo = (): void => void back(() => put({ id: entry.id, version }, { withdrawn: false }))
    say({ text: `${entry.about.title}: removed.`, undo })
  }
  async function confirm(ids: readonly string[]): Promise<void> {
    const { confirmed } = await answer(() => api.time.confirm.$post({ json: { ids: [...ids] } }))
    await anew()
    say({ text: confirmed === 1 ? 'One entry confirmed.' : `${confirmed} entries confirmed.` })
  }
  return { add, change, remove, confirm }
}
