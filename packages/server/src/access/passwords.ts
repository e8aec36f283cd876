import { hash, verify } from '@node-rs/argon2'
import { dictionary } from '@zxcvbn-ts/language-common'

/** Passwords: which are taken, and how they are kept (argon2id). */

export const SHORTEST = 10
const LONGEST = 500

const common: ReadonlySet<string> = new Set(dictionary['passwords-common'] as readonly string[])

/** What is wrong with a new password, in a sentence; null where it may be used. `about`: names and addresses of its person. */
export function passwordTrouble(password: string, about: readonly string[]): string | null {
  if (password.length < SHORTEST) return `A password has at least ${SHORTEST} characters.`
  if (password.length > LONGEST) return `A password has at most ${LONGEST} characters.`
  const plain = password.toLowerCase()
  // What stands in every list of guesses is in it with figures put after it, too.
  const words = [plain, plain.replace(/[\d\W_]+$/, ''), plain.replace(/[\d\W_]/g, '')]
  if (words.some(w => common.has(w)) || new Set(plain).size < 4)
    return 'That is among the first passwords anybody would try. Use a few words that belong to nobody else.'
  const own = about.flatMap(text => text.toLowerCase().split(/[@.\s]+/)).filter(part => part.length > 3)
  if (own.some(part => plain.replace(part, '').length < 5)) return 'That is hardly more than your name.'
  return null
}

export const hashPassword = (password: string): Promise<string> => hash(password)
export const isPassword = (hashed: string, password: string): Promise<boolean> => verify(hashed, password)
