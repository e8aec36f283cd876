import { type Level, LEVEL_WORDS } from '@loom/core/view'

/** What has to be agreed to by others, as rules show more people what is theirs. */

export interface Ask {
  place: string | null
  owner: string | null
  level: Level
}

/** For each list a sentence. */
export const askSentences = (asks: readonly Ask[]): string[] =>
  asks.map(({ place, owner, level }) => {
    const asked = owner ? `${owner}, who is asked first` : 'the team: whoever looks after it is asked first'
    const seen = `By a rule, more people would see ${LEVEL_WORDS[level].name} of`
    return place === null ? `${seen} what belongs to ${asked}.` : `${seen} ${place}. It belongs to ${asked}.`
  })

/** Who is asked, for a button. */
export function askButton(asks: readonly Ask[]): string {
  const names = [...new Set(asks.map(a => a.owner?.split(' ')[0] ?? 'the team'))]
  return names.length > 2 ? `Ask ${names.length} people` : `Ask ${names.join(' and ')}`
}

/** For a message once it is asked. */
export function askedWords(asks: readonly Ask[]): string {
  const names = [...new Set(asks.map(a => a.owner ?? 'whoever looks after it'))]
  return `Asked ${names.join(' and ')}. It is done as soon as they agree; see Team, Requests.`
}

export const named = (names: readonly string[]): string =>
  names.length <= 1
    ? (names[0] ?? '')
    : `${names
        .slice(0, 3)
        .slice(0, names.length > 3 ? 2 : -1)
        .join(', ')} and ${names.length > 3 ? `${names.length - 2} more` : names.at(-1)}`
