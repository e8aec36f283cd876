import { type ClothItem, dayWords, durationWords, type Property } from '@loom/core/view'
import { inject, type InjectionKey, provide, type Ref } from 'vue'
import type { Source } from './signs.ts'

/** What else there is to know of an item besides its title, as far as the view shows it, and how it is dyed. */

interface Terms {
  shows: Ref<readonly Property[]>
  sources: Ref<readonly Source[]>
  nameOf: (id: string) => string
  dyes: Ref<(item: ClothItem) => readonly { dye: string }[]>
  /** Titles of what something waits for. */
  waitsFor?: (key: string) => readonly string[]
}
export interface ShownFacts {
  shows: (what: Property) => boolean
  /** `told`: what the drawing says already. */
  of: (item: ClothItem, told?: readonly Property[]) => string[]
  /** Whose it is, in words. */
  whose: (item: ClothItem) => string
  /** The dyes of its edge; the first is that of the whole. */
  dyes: (item: ClothItem) => string[]
}

const KEY: InjectionKey<ShownFacts> = Symbol('shown facts')

/** Without a choice, nothing is shown. */
const NONE: ShownFacts = { shows: () => false, of: () => [], whose: () => '', dyes: () => [] }

const NOTHING = (): readonly string[] => []

export function shownFacts({ shows: chosen, sources, nameOf, dyes, waitsFor = NOTHING }: Terms): ShownFacts {
  const shows = (what: Property): boolean => chosen.value.includes(what)
  const SAYS: [Property, (item: ClothItem) => string][] = [
    ['place', i => i.location],
    ['due', i => (i.due ? `due ${dayWords(i.due)}` : '')],
    ['estimate', i => (i.estimate === null ? '' : durationWords(i.estimate))],
    ['list', i => sources.value.find(s => s.id === i.sources[0])?.name ?? ''],
    ['person', i => i.people.map(nameOf).join(', ')],
  ]
  return {
    shows,
    whose: i => i.people.map(nameOf).join(', '),
    dyes: item => {
      const [first, ...more] = dyes.value(item).map(d => d.dye)
      if (first === undefined) return []
      // A pair's edge stays woven, also where one colour is told of both.
      const pale = `color-mix(in srgb, ${first} 40%, var(--cloth))`
      return more.length === 0 && item.kind === 'tied' ? [first, pale] : [first, ...more]
    },
    of: (item, told = []) => {
      const first = item.done ? [] : waitsFor(item.of ?? item.key)
      return [
        first.length > 0 ? `after ${first.join(', ')}` : '',
        ...SAYS.filter(([what]) => shows(what) && !told.includes(what)).map(([, say]) => say(item)),
      ].filter(Boolean)
    },
  }
}

export const provideShownFacts = (terms: Terms): void => provide(KEY, shownFacts(terms))
export const useShownFacts = (): ShownFacts => inject(KEY, NONE)
