import { setImmediate as turn } from 'node:timers/promises'
import { Parser } from 'htmlparser2'

/** The XML of WebDAV answers (RFC 4918) as plain values; names without their namespace prefixes. */

/**
 * An XML element: its text alone, or its attributes (`@name`), its children by name (several of one name as a
 * list) and `#text`. Elements named in LISTS are always lists.
 */
export type XmlNode = string | { [name: string]: unknown }

const LISTS = new Set(['response', 'propstat', 'comp', 'privilege', 'href'])
const DEEPEST = 100
/** How many characters are parsed before others have their turn. */
const PART = 60_000

const localName = (name: string): string => name.slice(name.indexOf(':') + 1)

interface Open {
  text: string
  /** None for text alone. */
  node: { [name: string]: unknown } | null
}

const nodeOf = (open: Open): { [name: string]: unknown } =>
  (open.node ??= Object.create(null) as { [name: string]: unknown })

function close(open: Open): XmlNode {
  if (!open.node) return open.text
  if (open.text) open.node['#text'] = open.text
  return open.node
}

function add(parent: Open, name: string, value: XmlNode): void {
  const node = nodeOf(parent)
  const before = node[name]
  if (Array.isArray(before)) before.push(value)
  else node[name] = before === undefined ? (LISTS.has(name) ? [value] : value) : [before, value]
}

/** The document as a node with its root element in it. Throws where it breaks off, or brings definitions of its own. */
export async function parseXml(text: string): Promise<XmlNode> {
  const document: Open = { text: '', node: null }
  const path: Open[] = [document]
  const top = (): Open => path.at(-1) ?? document
  const parser = new Parser(
    {
      onopentag(_, attributes) {
        if (path.length > DEEPEST) throw new Error('it is nested too deeply')
        const open: Open = { text: '', node: null }
        for (const name in attributes)
          if (!name.startsWith('xmlns')) nodeOf(open)[`@${localName(name)}`] = attributes[name]
        path.push(open)
      },
      ontext(part) {
        top().text += part
      },
      onclosetag(name) {
        const open = path.pop() ?? document
        add(top(), localName(name), close(open))
      },
      onprocessinginstruction(name) {
        // A document type can define entities that grow without end.
        if (name.toLowerCase() === '!doctype') throw new Error('it brings a document type')
      },
    },
    { xmlMode: true, decodeEntities: true },
  )
  for (let at = 0; at < text.length; at += PART) {
    if (at > 0) await turn()
    parser.write(text.slice(at, at + PART))
  }
  // The parser itself would close what is open.
  if (path.length > 1) throw new Error('it breaks off')
  parser.end()
  return close(document)
}

export const childOf = (node: unknown, name: string): unknown =>
  typeof node === 'object' && node !== null ? (node as Record<string, unknown>)[name] : undefined

export const listOf = (value: unknown): unknown[] =>
  Array.isArray(value) ? (value as unknown[]) : value === undefined ? [] : [value]

export function textIn(node: unknown): string {
  if (typeof node === 'string') return node
  const inner = childOf(node, '#text')
  return typeof inner === 'string' ? inner : ''
}

/** The first href inside a property such as calendar-home-set. */
export const hrefIn = (node: unknown): string | null =>
  textIn(listOf(childOf(node, 'href'))[0]).trim() || null

export const escapeXml = (text: string): string =>
  text.replace(/[&<>"]/g, c => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? c)
