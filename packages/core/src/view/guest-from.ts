import { Guest } from '../items/items.ts'

/** Whom a person means by what they wrote: an address, alone or after a name, or the name of somebody they know. Null for nobody. */
export function guestFrom(text: string, known: readonly { name: string; email: string }[]): Guest | null {
  const said = text.trim()
  const folded = said.toLowerCase()
  const one = known.find(k => [k.email.toLowerCase(), k.name.toLowerCase()].includes(folded))
  if (one) return { name: one.name, email: one.email }
  const { name = '', email = '' } =
    /^(?<name>.*?)\s*<?(?<email>[^\s<>]+@[^\s<>]+)>?$/.exec(said)?.groups ?? {}
  return Guest.safeParse({ name: name.replace(/^"|"$/g, ''), email }).data ?? null
}

/** Several addresses, parted by commas, semicolons or line ends; what is none. */
export function addressesIn(text: string): { guests: Guest[]; unclear: string[] } {
  const parts = text
    .split(/[,;\n]+/)
    .map(p => p.trim())
    .filter(Boolean)
  const found = parts.map(p => guestFrom(p, []))
  return { guests: found.filter(g => g !== null), unclear: parts.filter((_, n) => found[n] === null) }
}
