/**
 * `next`, with every part of it that says the same as in `was` as the very object that it was: what draws it then draws
 * only what has changed. Of plain values and lists, in which what has a key is known by it; all else is compared by
 * identity.
 */
export function keepEqual<T>(was: unknown, next: T): T {
  return shared(was, next) as T
}

function shared(was: unknown, next: unknown): unknown {
  if (Object.is(was, next)) return was
  if (Array.isArray(was) && Array.isArray(next)) {
    const before = new Map(was.map((w, i) => [nameOf(w) ?? i, w]))
    const kept = next.map((n, i) => shared(before.get(nameOf(n) ?? i), n))
    return was.length === kept.length && kept.every((k, i) => Object.is(k, was[i])) ? was : kept
  }
  if (!isPlain(was) || !isPlain(next)) return next
  const keys = Object.keys(next)
  const kept = Object.fromEntries(keys.map(k => [k, shared(was[k], next[k])]))
  const isSame =
    keys.length === Object.keys(was).length && keys.every(k => k in was && Object.is(kept[k], was[k]))
  return isSame ? was : kept
}

/** What a thing in a list, or the item that it draws, is called by. */
function nameOf(it: unknown): string | null {
  if (!isPlain(it)) return null
  const { key } = isPlain(it.item) ? it.item : it
  return typeof key === 'string' ? key : null
}

function isPlain(it: unknown): it is Record<string, unknown> {
  return typeof it === 'object' && it !== null && Object.getPrototypeOf(it) === Object.prototype
}
