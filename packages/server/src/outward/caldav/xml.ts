import { XMLBuilder, XMLParser } from 'fast-xml-parser'

/** The XML of WebDAV (RFC 4918) and CalDAV (RFC 4791): what is asked, and multistatus answers. */

const parser = new XMLParser({
  removeNSPrefix: true,
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  parseTagValue: false,
  // Nothing that is asked of us has any: so none is ever expanded.
  processEntities: false,
})
const builder = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  suppressEmptyNode: true,
})

export type Node = { readonly [name: string]: unknown }
const isNode = (value: unknown): value is Node => typeof value === 'object' && value !== null

/** Null for what is no XML; an empty body asks for everything. */
export function parsedXml(text: string): Node | null {
  if (text.trim() === '') return {}
  if (!text.trimStart().startsWith('<') || /<!DOCTYPE/i.test(text)) return null
  try {
    const parsed: unknown = parser.parse(text)
    return isNode(parsed) ? parsed : null
  } catch {
    return null
  }
}

export const childOf = (node: unknown, name: string): unknown => (isNode(node) ? node[name] : undefined)
export const hasChild = (node: unknown, name: string): boolean => isNode(node) && name in node
export const manyOf = (value: unknown): unknown[] =>
  value === undefined ? [] : Array.isArray(value) ? (value as unknown[]) : [value]
export const textOf = (value: unknown): string =>
  typeof value === 'string'
    ? value
    : isNode(value) && typeof value['#text'] === 'string'
      ? value['#text']
      : ''
export const attributeOf = (node: unknown, name: string): string => textOf(childOf(node, `@${name}`))

/** Names without a prefix are of `DAV:`. */
const PREFIXES: Record<string, string> = {
  'calendar-home-set': 'C',
  'calendar-data': 'C',
  'calendar-description': 'C',
  'calendar-user-address-set': 'C',
  'supported-calendar-component-set': 'C',
  'supported-calendar-data': 'C',
  getctag: 'S',
}
const named = (name: string): string => `${PREFIXES[name] ?? 'D'}:${name}`
const NAMESPACES = {
  '@xmlns:D': 'DAV:',
  '@xmlns:C': 'urn:ietf:params:xml:ns:caldav',
  '@xmlns:S': 'http://calendarserver.org/ns/',
}
const DECLARATION = '<?xml version="1.0" encoding="utf-8"?>\n'

/** A property's value as the builder takes it: text, or elements. */
export type Value = string | Node
export type Props = Readonly<Record<string, Value>>

export interface Answer {
  href: string
  /** Null: there is no such resource, or not any more. */
  props: Props | null
}

/** @param asked names of properties; null for all that there are */
export function multistatus(
  answers: readonly Answer[],
  asked: readonly string[] | null,
  more: Node = {},
): string {
  const responses = answers.map(({ href, props }) => {
    if (!props) return { 'D:href': href, 'D:status': 'HTTP/1.1 404 Not Found' }
    const names = asked ?? Object.keys(props)
    const stat = (of: readonly string[], status: string): Node[] =>
      of.length === 0
        ? []
        : [
            {
              'D:prop': Object.fromEntries(of.map(n => [named(n), props[n] ?? ''])),
              'D:status': `HTTP/1.1 ${status}`,
            },
          ]
    const known = names.filter(n => n in props)
    const unknown = names.filter(n => !(n in props))
    return { 'D:href': href, 'D:propstat': [...stat(known, '200 OK'), ...stat(unknown, '404 Not Found')] }
  })
  return DECLARATION + builder.build({ 'D:multistatus': { ...NAMESPACES, 'D:response': responses, ...more } })
}

/** A precondition that does not hold (RFC 4918 §16). */
export const precondition = (name: string): string =>
  DECLARATION + builder.build({ 'D:error': { ...NAMESPACES, [name]: '' } })
