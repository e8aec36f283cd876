import type { Request } from './description.ts'

/** Variables for the requests of a description. */
export type Variables = Record<string, unknown>

const VARIABLE = /\{([a-zA-Z]+)\}/g

const textOf = (value: unknown): string =>
  value === null || value === undefined
    ? ''
    : typeof value === 'object'
      ? JSON.stringify(value)
      : String(value)

export const inPath = (template: string, vars: Variables): string =>
  template.replace(VARIABLE, (_, name: string) => encodeURIComponent(textOf(vars[name])))

const inText = (template: string, vars: Variables): string =>
  template.replace(VARIABLE, (_, name: string) => textOf(vars[name]))

/** A string that is nothing but a variable becomes its value, whatever kind that is. */
export function inBody(template: unknown, vars: Variables): unknown {
  if (typeof template === 'string') {
    const whole = /^\{([a-zA-Z]+)\}$/.exec(template)?.[1]
    return whole ? vars[whole] : inText(template, vars)
  }
  if (Array.isArray(template)) return template.map(t => inBody(t, vars))
  if (typeof template !== 'object' || template === null) return template
  const made: Record<string, unknown> = {}
  for (const [key, t] of Object.entries(template as Record<string, unknown>)) {
    // "…": "{fields}" puts the fields beside its neighbours.
    const value = inBody(t, vars)
    if (key === '...' && typeof value === 'object' && value !== null) Object.assign(made, value)
    else if (value !== undefined) made[key] = value
  }
  return made
}

export interface Filled {
  method: string
  /** Path and query, after the base address. */
  path: string
  headers: Record<string, string>
  body: string | undefined
}

/** `more` are query parameters of the caller's, such as the page. */
export function fill(
  request: Request,
  vars: Variables,
  more: Record<string, string | undefined> = {},
): Filled {
  const query = new URLSearchParams()
  for (const [name, template] of Object.entries(request.query)) {
    const missing = [...template.matchAll(VARIABLE)].some(m => vars[m[1] ?? ''] === undefined)
    if (!missing) query.set(name, inText(template, vars))
  }
  const hasBody = request.body !== undefined
  // A service that is asked by POST is told its pages in the body.
  if (!hasBody)
    for (const [name, value] of Object.entries(more)) if (value !== undefined) query.set(name, value)
  const body = inBody(request.body, vars)
  if (hasBody && typeof body === 'object' && body !== null)
    for (const [name, value] of Object.entries(more))
      if (value !== undefined) Object.assign(body, { [name]: value })
  const asked = query.toString()
  return {
    method: request.method,
    path: inPath(request.path, vars) + (asked ? `${request.path.includes('?') ? '&' : '?'}${asked}` : ''),
    headers: Object.fromEntries(Object.entries(request.headers).map(([k, v]) => [k, inText(v, vars)])),
    body: hasBody ? JSON.stringify(body) : undefined,
  }
}
