/** JSON Pointer (RFC 6901). */

const partsOf = (pointer: string): string[] =>
  pointer === ''
    ? []
    : pointer
        .slice(1)
        .split('/')
        .map(p => p.replace(/~1/g, '/').replace(/~0/g, '~'))

/** Undefined where nothing stands there. */
export function valueAt(json: unknown, pointer: string): unknown {
  let at = json
  for (const part of partsOf(pointer)) {
    if (typeof at !== 'object' || at === null || !Object.hasOwn(at, part)) return undefined
    at = (at as Record<string, unknown>)[part]
  }
  return at
}

const UNSAFE = new Set(['__proto__', 'constructor', 'prototype'])

/** Puts `value` into `into`, with objects made on the way. */
export function putAt(into: Record<string, unknown>, pointer: string, value: unknown): void {
  const parts = partsOf(pointer)
  const last = parts.pop()
  if (last === undefined || [last, ...parts].some(p => UNSAFE.has(p))) return
  let at = into
  for (const part of parts) {
    const next = at[part]
    if (typeof next === 'object' && next !== null) at = next as Record<string, unknown>
    else at = at[part] = {} as Record<string, unknown>
  }
  at[last] = value
}

export const textAt = (json: unknown, pointer: string | undefined): string => {
  const value = pointer === undefined ? undefined : valueAt(json, pointer)
  return typeof value === 'string'
    ? value
    : typeof value === 'number' || typeof value === 'boolean'
      ? String(value)
      : ''
}

export const listAt = (json: unknown, pointer: string): unknown[] => {
  const value = valueAt(json, pointer)
  return Array.isArray(value) ? (value as unknown[]) : []
}
