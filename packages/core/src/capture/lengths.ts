/** How long something takes, as people say it. */

const NUMBER_WORDS = ['one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten']
const WORD = `an?|${NUMBER_WORDS.join('|')}`
const HOURS = 'h(?:ours?|rs?)?'
const MINUTES = 'min(?:ute)?s?'
const COUNT = `(?:\\d+(?:[.,]\\d+)?|${WORD})`

/** Said so, it is a length whatever stands round it. */
const SAID = '(?:for|takes?|about|lasts?|needs?)\\s+(?:about\\s+)?'

const FORMS: [RegExp, (m: RegExpExecArray) => number][] = [
  [/half an hour/, () => 30],
  [/(?:a )?quarter of an hour/, () => 15],
  [/three quarters of an hour/, () => 45],
  [/an hour and a half/, () => 90],
  [new RegExp(`(${COUNT}) and a half hours?`), ([, n]) => (numberOf(n) + 0.5) * 60],
  [
    new RegExp(`(\\d+)\\s?h\\s?([0-5]\\d)(?:\\s?m(?:in)?)?(?![\\p{L}\\d])`, 'u'),
    ([, h, m]) => Number(h) * 60 + Number(m),
  ],
  [
    new RegExp(`(${COUNT})\\s?${HOURS}(?:\\s*(?:and\\s+)?(\\d+)\\s?(?:${MINUTES}|m))?`),
    ([, h, m]) => numberOf(h) * 60 + Number(m ?? 0),
  ],
  [new RegExp(`(${COUNT})\\s?${MINUTES}`), ([, m]) => numberOf(m)],
]
const numberOf = (said = ''): number => {
  if (/^an?$/i.test(said)) return 1
  const word = NUMBER_WORDS.indexOf(said.toLowerCase())
  return word >= 0 ? word + 1 : Number(said.replace(',', '.'))
}

/** What says when rather than how long: "in 30 minutes", "2 hours later". */
const NOT_BEFORE = '(?<!\\b(?:in|within|after|every|each|next|last|past)\\s+(?:the\\s+)?)'
const NOT_AFTER = '(?!\\s+(?:ago|later|before|after|from|early|late)\\b)(?![\\p{L}\\p{N}])'

const PATTERNS = FORMS.map(
  ([form, minutes]) =>
    [
      new RegExp(`${NOT_BEFORE}(?<![\\p{L}\\p{N}.,])(?:${SAID})?(?:${form.source})${NOT_AFTER}`, 'iu'),
      minutes,
    ] as const,
)
/** Minutes by their letter alone may be metres: only after a word that says so. */
const BY_LETTER = new RegExp(`(?<![\\p{L}\\p{N}])${SAID}(\\d+)\\s?m${NOT_AFTER}`, 'iu')

/** The first length in a text, in minutes: between five minutes and a day. Null where none is said. */
export function lengthIn(text: string): { index: number; words: string; minutes: number } | null {
  for (const [pattern, minutes] of [
    ...PATTERNS,
    [BY_LETTER, ([, m]: RegExpExecArray) => Number(m)] as const,
  ]) {
    const found = pattern.exec(text)
    if (!found) continue
    const said = Math.round(minutes(found))
    if (said > 0) return { index: found.index, words: found[0], minutes: Math.min(1440, Math.max(5, said)) }
  }
  return null
}
