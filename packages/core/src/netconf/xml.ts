import { SaxesParser, type SaxesTagNS } from 'saxes'

/** An element with its namespace; text between elements is kept where there are no elements. */
export interface XmlElement {
  readonly name: string
  readonly ns: string
  readonly attributes: Readonly<Record<string, string>>
  readonly children: readonly XmlElement[]
  readonly text: string
}

interface Growing extends XmlElement {
  readonly children: XmlElement[]
  text: string
}

const MAX_DEPTH = 64

/**
 * @throws Error that says what is wrong, where a message is not well-formed, has a document type (RFC 6241 §3) or is
 * nested too deep
 */
export function readElement(text: string): XmlElement {
  const parser = new SaxesParser({ xmlns: true, position: true })
  const open: Growing[] = []
  let root: XmlElement | null = null
  let fault: string | null = null
  parser.on('error', (error) => {
    fault ??= error.message.split('\n')[0] ?? ''
  })
  parser.on('doctype', () => {
    fault ??= 'a document type stands in the message'
  })
  parser.on('opentag', (tag: SaxesTagNS) => {
    if (open.length >= MAX_DEPTH) fault ??= `elements are nested deeper than ${MAX_DEPTH}`
    open.push({
      name: tag.local,
      ns: tag.uri,
      attributes: Object.fromEntries(Object.values(tag.attributes).map(({ name, value }) => [name, value])),
      children: [],
      text: '',
    })
  })
  parser.on('text', (chars) => {
    const last = open.at(-1)
    if (last) last.text += chars
  })
  parser.on('closetag', () => {
    const last = open.pop()
    if (!last) return
    const around = open.at(-1)
    if (around) around.children.push(last)
    else root ??= last
  })
  for (let from = 0; from < text.length && fault === null; from += 65_536) parser.write(text.slice(from, from + 65_536))
  if (fault === null) parser.close()
  if (fault !== null || root === null) throw new Error(fault ?? 'there is no element')
  return root
}

export function childOf(element: XmlElement | undefined, name: string): XmlElement | undefined {
  return element?.children.find((child) => child.name === name)
}

export function textOf(element: XmlElement | undefined): string | null {
  return element ? element.text.trim() : null
}

/** An element to be written: a name with content; null is left out. */
export type XmlContent = string | number | null | readonly (XmlPart | null)[]
export type XmlPart = readonly [name: string, content: XmlContent, attributes?: Readonly<Record<string, string>>]

/** Writes elements; text and attributes are escaped. */
export function writeElement([name, content, attributes = {}]: XmlPart): string {
  const head = [name, ...Object.entries(attributes).map(([key, value]) => `${key}="${escaped(value)}"`)].join(' ')
  if (content === null) return `<${head}/>`
  const inner =
    typeof content === 'object'
      ? content.map((part) => (part === null ? '' : writeElement(part))).join('')
      : escaped(String(content))
  return inner === '' ? `<${head}/>` : `<${head}>${inner}</${name}>`
}

function escaped(text: string): string {
  // Characters that XML 1.0 does not know are left out.
  return text
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, '')
    .replace(/[&<>"]/g, (character) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;' })[character] ?? '&quot;')
}
