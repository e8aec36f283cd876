import { type ClothItem, dayAt, dayWords, type Filter } from '@loom/core/view'
import { computed, type ComputedRef, type Ref, watch } from 'vue'
import { answer, api, Refused } from '../api/client.ts'
import { foundItems } from '../stores/found-items.ts'
import { useSession } from '../stores/session.ts'

/** What the words in the command field could be: something to write down, a place to go to, or something that is there. */

const PLACES = [
  { name: 'Cloth', to: '/cloth' },
  { name: 'Day', to: '/day' },
  { name: 'Draft the free time', to: '/cloth?draft=week' },
  { name: 'Offer times to a guest', to: '/cloth?offer' },
  { name: 'Find a time with colleagues', to: '/cloth?offer=us' },
  { name: 'Rules', to: '/rules' },
  { name: 'Conflicts', to: '/rules/conflicts' },
  { name: 'Brake', to: '/rules/brake' },
  { name: 'Chains', to: '/rules/chains' },
  { name: 'Connections', to: '/connections' },
  { name: 'Connect a service', to: '/connections/new' },
  { name: 'Journal', to: '/journal' },
  { name: 'Categories', to: '/categories' },
  { name: 'My settings', to: '/me' },
]
const PAUSE_MS = 120
const MOST_FOUND = 8

export interface CommandLine {
  id: string
  name: string
  hint: string
  run: () => void
  /** What can be picked up and dropped on the Cloth. */
  item?: ClothItem
}
export interface CommandActs {
  write: () => void
  go: (to: string) => void
  show: (item: ClothItem) => void
}

/** The item's day in the viewer's zone; undefined without a day. */
export function dayOfItem({ place }: ClothItem, zone: string): string | undefined {
  if (place.kind === 'timed') return dayAt(place.startMs, zone)
  if (place.kind === 'all-day') return place.from
  return place.kind === 'day' ? place.date : undefined
}

/** @param title what would be written down of the words */
export function useCommandLines(
  text: Ref<string>,
  title: Ref<string>,
  question: Ref<{ words: string; filter: Filter }>,
  acts: CommandActs,
): ComputedRef<CommandLine[]> {
  const session = useSession()
  let asked = 0
  let timer = 0
  /** What the parts name comes first; then what holds all of the words as they stand. */
  async function find(words: string): Promise<ClothItem[]> {
    const { words: rest, filter } = question.value
    const search = (q: string, by: Filter) =>
      answer(() =>
        api.cloth.search.$get({
          query: { q: q.slice(0, 200), ...(by.length > 0 && { filter: JSON.stringify(by) }) },
        }),
      )
    const [named, plain] = await Promise.all([
      filter.length > 0 ? search(rest, filter) : { items: [] },
      search(words, []),
    ])
    return [...new Map([...named.items, ...plain.items].map(i => [i.key, i])).values()]
  }
  watch([text, () => JSON.stringify(question.value)], () => {
    window.clearTimeout(timer)
    const words = text.value.trim()
    if (words.length < 2) {
      foundItems.value = []
      return
    }
    timer = window.setTimeout(async () => {
      const mine = ++asked
      try {
        const items = await find(words)
        if (mine === asked) foundItems.value = items
      } catch (error) {
        if (!(error instanceof Refused)) throw error
        if (mine === asked) foundItems.value = []
      }
    }, PAUSE_MS)
  })
  const whereOf = (i: ClothItem): string => {
    const day = dayOfItem(i, session.person?.zone ?? 'UTC')
    if (day !== undefined) return dayWords(day)
    return i.done ? 'done' : i.putBy === null ? 'on the shelf' : 'put by'
  }
  return computed(() => {
    const words = text.value.trim().toLowerCase()
    const places = PLACES.filter(p => words.length > 1 && p.name.toLowerCase().startsWith(words))
    const list: CommandLine[] = []
    if (words) list.push({ id: 'write', name: title.value, hint: 'write down', run: acts.write })
    for (const p of places) list.push({ id: p.to, name: p.name, hint: 'go there', run: () => acts.go(p.to) })
    for (const i of foundItems.value.slice(0, MOST_FOUND))
      list.push({ id: i.key, name: i.title, hint: whereOf(i), run: () => acts.show(i), item: i })
    return list
  })
}
