import { XMLParser } from 'fast-xml-parser'

/** The little of WebDAV's XML (RFC 4918) that this service speaks. */

export const escapeXml = (text: string): string =>
  text.replace(/[&<>"]/g, c => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? c)

const parser = new XMLParser({
  removeNSPrefix: true,
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  parseTagValue: false,
  processEntities: true,
})

export type Node = { [name: string]: unknown }

/** An empty body is an empty object; what is not XML is null. */
export function parseXml(text: string): Node | null {
  if (text.trim() === '') return {}
  if (!text.trimStart().startsWith('<')) return null
  try {
    return parser.parse(text) as Node
  } catch {
    return null
  }
}

export const child = (node: unknown, name: string): unknown =>
  typeof node === 'object' && node !== null ? (node as Node)[name] : undefined

export const many = (value: unknown): unknown[] =>
  value === undefined ? [] : Array.isArray(value) ? (value as unknown[]) : [value]

/** Property name → its XML, or undefined where the resource has no such property. */
export type Props = Record<string, string | undefined>

const NAMESPACES =
  'xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav" xmlns:S="http://calendarserver.org/ns/" xmlns:I="http://apple.com/ns/ical/"'

const PREFIX: Record<string, string> = {
  'calendar-home-set': 'C',
  'calendar-data': 'C',
  'supported-calendar-component-set': 'C',
  'calendar-description': 'C',
  'max-resource-size': 'C',
  'calendar-user-address-set': 'C',
  getctag: 'S',
  'calendar-color': 'I',
}
const tag = (name: string): string => `${PREFIX[name] ?? 'D'}:${name}`

/** One `response` with what is known and what is not (RFC 4918 §9.1). */
export function response(href: string, props: Props, asked: string[] | null): string {
  const names = asked ?? Object.keys(props)
  const found = names.filter(n => props[n] !== undefined)
  const missing = names.filter(n => props[n] === undefined)
  const stat = (list: string[], status: string, body: (n: string) => string): string =>
    list.length === 0
      ? ''
      : `<D:propstat><D:prop>${list.map(body).join('')}</D:prop><D:status>HTTP/1.1 ${status}</D:status></D:propstat>`
  return (
    `<D:response><D:href>${escapeXml(href)}</D:href>` +
    stat(found, '200 OK', n => `<${tag(n)}>${props[n] ?? ''}</${tag(n)}>`) +
    stat(missing, '404 Not Found', n => `<${tag(n)}/>`) +
    `</D:response>`
  )
}

export const goneResponse = (href: string): string =>
  `<D:response><D:href>${escapeXml(href)}</D:href><D:status>HTTP/1.1 404 Not Found</D:status></D:response>`

export const multistatus = (responses: string[], extra = ''): string =>
  `<?xml version="1.0" encoding="utf-8"?>\n<D:multistatus ${NAMESPACES}>${responses.join('')}${extra}</D:multistatus>`

export const davError = (condition: string): string =>
  `<?xml version="1.0" encoding="utf-8"?>\n<D:error ${NAMESPACES}><${condition}/></D:error>`
