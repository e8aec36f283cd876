/** Times of the day and spans of it, as people say them. Minutes since midnight. */

const NUMBERS = [
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
]
const HOUR_WORD = NUMBERS.join('|')
const CLOCK = '(\\d{1,2})(?:[:.]([0-5]\\d))?\\s?(am|pm|a\\.m\\.|p\\.m\\.)?'
const EDGE = '(?<![\\p{L}\\p{N}.,:/-])'
const END = '(?![\\p{L}\\p{N}])(?![:.,/-]\\d)'

export interface SaidHours {
  index: number
  words: string
  start: number
  /** Null where only a beginning is said. */
  minutes: number | null
}

interface Clock {
  hour: number
  minute: number
  half: 'am' | 'pm' | null
  /** Written as a clock of twenty-four hours has it, or with its minutes. */
  isPlain: boolean
  isLiteral: boolean
}

function clockOf(hour = '', minute?: string, half?: string): Clock | null {
  const [h, m] = [Number(hour), Number(minute ?? 0)]
  if (h > 24 || (half && (h > 12 || h === 0))) return null
  return {
    hour: h,
    minute: m,
    half: half ? (half.toLowerCase().startsWith('p') ? 'pm' : 'am') : null,
    isPlain: minute === undefined && !half,
    isLiteral: hour.startsWith('0') || h > 12 || h === 0,
  }
}

/** Without am or pm, an hour is the one of the working day: seven in the morning until half past six. */
function minutesAt({ hour, minute, half, isLiteral }: Clock): number {
  const twelve = hour % 12
  if (half) return (twelve + (half === 'pm' ? 12 : 0)) * 60 + minute
  if (isLiteral) return (hour % 24) * 60 + minute
  return (hour < 7 ? hour + 12 : hour) * 60 + minute
}

/** What says that a pair of bare numbers is of hours: what stands before or after them. */
const HOURS_BEFORE = new RegExp(
  `(?:\\b(?:from|between|at|today|tonight|tomorrow|(?:mon|tues|wednes|thurs|fri|satur|sun)day|mon|tue|wed|thu|fri|noon|morning|afternoon|evening|week)|\\d{4}-\\d\\d-\\d\\d|^|,)\\s*$`,
  'iu',
)
const HOURS_AFTER =
  /^\s*(?:,|:|today|tonight|tomorrow|on\b|(?:next\s+)?(?:mon|tues|wednes|thurs|fri|satur|sun)day|(?:mon|tue|wed|thu|fri)\b)/iu

const SPAN = new RegExp(
  `${EDGE}(from\\s+|between\\s+|at\\s+)?${CLOCK}\\s*(?:-|–|—|to|until|till|and)\\s*${CLOCK}${END}`,
  'giu',
)

function spanIn(text: string): SaidHours | null {
  for (const found of text.matchAll(SPAN)) {
    const [words, lead = '', h1, m1, half1, h2, m2, half2] = found
    const joined = /\band\b/i.test(words)
    if (joined && !/between/i.test(lead)) continue
    const [from, to] = [clockOf(h1, m1, half1), clockOf(h2, m2, half2)]
    if (!from || !to) continue
    const before = text.slice(0, found.index)
    const after = text.slice(found.index + words.length)
    if (from.isPlain && to.isPlain && !lead && !HOURS_BEFORE.test(before) && !HOURS_AFTER.test(after))
      continue
    // A bare pair is of hours only where nothing is counted by it.
    if (from.isPlain && to.isPlain && /^\s+\p{Ll}+s\b/u.test(after) && !HOURS_AFTER.test(after)) continue
    const end = minutesAt(to)
    let start = minutesAt({ ...from, half: from.half ?? (to.half && from.hour <= 12 ? to.half : null) })
    // "11-1pm" begins in the morning.
    if (!from.half && to.half === 'pm' && start >= end) start -= 720
    let minutes = end - start
    if (minutes <= 0 && !to.half && !to.isLiteral) minutes += 720
    if (minutes <= 0 || minutes > 900 || start < 0) continue
    return { index: found.index, words, start, minutes }
  }
  return null
}

const SPOKEN = new RegExp(
  `${EDGE}(?:at\\s+)?(half past|quarter past|quarter to)\\s+(\\d{1,2}|${HOUR_WORD})\\s?(am|pm)?${END}`,
  'iu',
)
const AT = new RegExp(`${EDGE}at\\s+${CLOCK}${END}`, 'iu')
const ALONE = new RegExp(`${EDGE}(?:(\\d{1,2})[:.]([0-5]\\d)\\s?(am|pm)?|(\\d{1,2})\\s?(am|pm))${END}`, 'iu')
const NOON = /(?<![\p{L}\p{N}])(?:at\s+)?(noon|midday|midnight)(?![\p{L}\p{N}])/iu

function pointIn(text: string): SaidHours | null {
  const spoken = SPOKEN.exec(text)
  if (spoken) {
    const [words, how = '', said = '', half] = spoken
    const word = NUMBERS.indexOf(said.toLowerCase())
    const clock = clockOf(word >= 0 ? String(word + 1) : said, undefined, half)
    const by = /half/i.test(how) ? 30 : /past/i.test(how) ? 15 : -15
    if (clock) return { index: spoken.index, words, start: minutesAt(clock) + by, minutes: null }
  }
  const noon = NOON.exec(text)
  if (noon) {
    const start = /midnight/i.test(noon[1] ?? '') ? 0 : 720
    return { index: noon.index, words: noon[0], start, minutes: null }
  }
  const at = AT.exec(text)
  const atClock = at && clockOf(at[1], at[2], at[3])
  if (at && atClock && atClock.hour < 24)
    return { index: at.index, words: at[0], start: minutesAt(atClock), minutes: null }
  const alone = ALONE.exec(text)
  const clock = alone && clockOf(alone[1] ?? alone[4], alone[2], alone[3] ?? alone[5])
  // "2.5" is no time; "9.30" is one after a day.
  if (!alone || !clock || clock.hour > 23) return null
  if (/\d\.\d/.test(alone[0]) && !clock.half && !HOURS_BEFORE.test(text.slice(0, alone.index))) return null
  return { index: alone.index, words: alone[0], start: minutesAt(clock), minutes: null }
}

/** The hours said in a text; null where none are. */
export const hoursIn = (text: string): SaidHours | null => spanIn(text) ?? pointIn(text)
