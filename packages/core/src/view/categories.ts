import { z } from 'zod'
import { isOurMark } from '../items/kind-marks.ts'

/**
 * What a workspace calls its categories. Services have words of their own for them; several words can mean one
 * category. A word that nobody has said anything about is a category by itself.
 */

const Name = z.string().trim().min(1).max(200)
const Dye = z
  .string()
  .regex(/^#[0-9a-f]{6}$/i)
  .nullable()

export const MOST_CATEGORIES = 500
export const MOST_WORDS = 200

export const Category = z.object({
  name: Name,
  /** `#rrggbb`; null: one that follows from its name. */
  dye: Dye,
  /** What services call it, beside its name. */
  words: z.array(z.string().min(1).max(500)).max(MOST_WORDS),
})
export type Category = z.infer<typeof Category>

/** Hues, each in a deep and in a bright dye: few words share one. */
const HUES = 24

/** `#rrggbb`. The same words have the same dye everywhere. */
export function dyeFor(words: string): string {
  let sum = 0x811c9dc5
  for (const letter of words.toLowerCase()) sum = Math.imul(sum ^ (letter.codePointAt(0) ?? 0), 0x01000193)
  const at = (sum >>> 0) % (2 * HUES)
  const [hue, light] = [((at >> 1) * 360) / HUES, at % 2 === 0 ? 0.31 : 0.46]
  const part = (n: number): string => {
    const k = (n + hue / 30) % 12
    const value = light - 0.48 * Math.min(light, 1 - light) * Math.max(-1, Math.min(k - 3, 9 - k, 1))
    return Math.round(255 * value)
      .toString(16)
      .padStart(2, '0')
  }
  return `#${part(0)}${part(8)}${part(4)}`
}

/** Two that differ in case alone are one. */
const plain = (word: string): string => word.trim().normalize('NFC').toLowerCase()
const same = (one: string, other: string): boolean => plain(one) === plain(other)

export const CategoryChange = z.discriminatedUnion('do', [
  z.object({ do: z.literal('dye'), name: Name, dye: Dye }),
  /** To the name of another: both become one. */
  z.object({ do: z.literal('rename'), name: Name, to: Name }),
  /** The word is a category by itself again. */
  z.object({ do: z.literal('part'), name: Name, word: Name }),
  /** As it was: takes a change back, where nobody has changed more since. */
  z.object({
    do: z.literal('restore'),
    /** As the change left it. */
    after: z.array(Category).max(MOST_CATEGORIES),
    categories: z
      .array(Category)
      .max(MOST_CATEGORIES)
      .refine(all => new Set(all.map(c => plain(c.name))).size === all.length, 'has a name twice'),
  }),
])
export type CategoryChange = z.infer<typeof CategoryChange>

export class CategoryNames {
  private readonly byWord = new Map<string, Category>()

  constructor(readonly categories: readonly Category[]) {
    for (const c of categories) for (const word of c.words) this.byWord.set(plain(word), c)
    // A name goes before a word of another.
    for (const c of categories) this.byWord.set(plain(c.name), c)
  }

  of = (word: string): Category | undefined => this.byWord.get(plain(word))
  /** What we call it. */
  nameOf = (word: string): string => this.of(word)?.name ?? word.trim()
  /** What we call them, each once; our own marks are no categories. */
  namesOf = (words: readonly string[]): string[] => [
    ...new Set(words.filter(w => !isOurMark(w)).map(this.nameOf)),
  ]

  /**
   * What is written for a name.
   * @param present the item's own words: what it says already stays as it is
   * @param used the words of its service, the most used first
   */
  toWrite(name: string, present: readonly string[], used: readonly string[]): string {
    const category = this.byWord.get(plain(name))
    if (!category || !same(category.name, name)) return name
    const means = (word: string): boolean => this.of(word) === category
    return present.find(means) ?? used.find(means) ?? category.name
  }
}

/** The categories after a change; those that say nothing any more are left out. */
export function changedCategories(
  categories: readonly Category[],
  change: Exclude<CategoryChange, { do: 'restore' }>,
): Category[] {
  const names = new CategoryNames(categories)
  const { name = change.name.trim(), dye = null, words = [] } = names.of(change.name) ?? {}
  const others = categories.filter(c => !same(c.name, name))
  switch (change.do) {
    case 'dye':
      return tidy([...others, { name, dye: change.dye, words }])
    case 'part':
      return tidy([...others, { name, dye, words: words.filter(w => !same(w, change.word)) }])
    case 'rename': {
      // The name of another: both are one. A word of another alone becomes the name of this one.
      const other = others.find(c => same(c.name, change.to))
      const merged = {
        name: other?.name ?? change.to.trim(),
        dye: other?.dye ?? dye,
        words: [...(other?.words ?? []), ...words, name],
      }
      return tidy([...others.filter(c => c !== other), merged])
    }
  }
}

/** Each word means one category, and no name is a word of another. */
function tidy(categories: readonly Category[]): Category[] {
  const taken = new Set(categories.map(c => plain(c.name)))
  return categories
    .map(c => ({
      ...c,
      words: c.words.filter(w => {
        if (taken.has(plain(w))) return false
        taken.add(plain(w))
        return true
      }),
    }))
    .filter(c => c.dye !== null || c.words.length > 0)
}
