import { childOf, readElement, textOf, writeElement, type XmlElement, type XmlPart } from './xml.ts'
import type { Framing } from './framing.ts'

export const BASE_NS = 'urn:ietf:params:xml:ns:netconf:base:1.0'
export const BASE_1_0 = 'urn:ietf:params:netconf:base:1.0'
export const BASE_1_1 = 'urn:ietf:params:netconf:base:1.1'

export interface Hello {
  readonly capabilities: readonly string[]
  /** Given by the server only. */
  readonly session: string | null
}

/** @throws Error where it is no hello (RFC 6241 §8.1) */
export function readHello(message: string): Hello {
  const hello = readElement(message)
  if (hello.name !== 'hello' || hello.ns !== BASE_NS) throw new Error(`a hello was expected, not “${hello.name}”`)
  const capabilities = (childOf(hello, 'capabilities')?.children ?? []).map((one) => one.text.trim())
  if (!capabilities.some((one) => one === BASE_1_0 || one === BASE_1_1))
    throw new Error('the other side states no version of NETCONF that is known')
  return { capabilities, session: textOf(childOf(hello, 'session-id')) }
}

export function writeHello({ capabilities, session }: Hello): string {
  return writeMessage([
    'hello',
    [
      ['capabilities', capabilities.map((one): XmlPart => ['capability', one])],
      session === null ? null : ['session-id', session],
    ],
    { xmlns: BASE_NS },
  ])
}

/** Messages are chunked where both sides say that they know version 1.1 (RFC 6242 §4.1). */
export function framingOf(own: readonly string[], other: readonly string[]): Framing {
  return own.includes(BASE_1_1) && other.includes(BASE_1_1) ? 'chunked' : 'end-of-message'
}

export function writeMessage(part: XmlPart): string {
  return `<?xml version="1.0" encoding="UTF-8"?>\n${writeElement(part)}`
}

/** An error as RFC 6241 §4.3 has it. */
export interface RpcError {
  readonly type: 'transport' | 'rpc' | 'protocol' | 'application'
  readonly tag: string
  readonly message: string
  readonly info?: readonly XmlPart[]
}

export function writeReply(
  id: string | null,
  body: 'ok' | { readonly data: readonly XmlPart[] } | { readonly errors: readonly RpcError[] },
): string {
  const content: readonly XmlPart[] =
    body === 'ok'
      ? [['ok', null]]
      : 'data' in body
        ? [['data', body.data]]
        : body.errors.map(({ type, tag, message, info }): XmlPart => [
            'rpc-error',
            [
              ['error-type', type],
              ['error-tag', tag],
              ['error-severity', 'error'],
              ['error-message', message],
              info ? ['error-info', info] : null,
            ],
          ])
  return writeMessage(['rpc-reply', content, { xmlns: BASE_NS, ...(id === null ? {} : { 'message-id': id }) }])
}

export interface Reply {
  readonly id: string | null
  readonly errors: readonly { readonly tag: string; readonly message: string; readonly severity: string }[]
}

/** @throws Error where it is no reply */
export function readReply(message: string): Reply {
  const reply = readElement(message)
  if (reply.name !== 'rpc-reply' || reply.ns !== BASE_NS) throw new Error(`a reply was expected, not “${reply.name}”`)
  return {
    id: reply.attributes['message-id'] ?? null,
    errors: reply.children
      .filter(({ name }) => name === 'rpc-error')
      .map((error) => ({
        tag: textOf(childOf(error, 'error-tag')) ?? '',
        message: textOf(childOf(error, 'error-message')) ?? '',
        severity: textOf(childOf(error, 'error-severity')) ?? 'error',
      })),
  }
}

export function writeRpc(id: string, operation: XmlPart): string {
  return writeMessage(['rpc', [operation], { xmlns: BASE_NS, 'message-id': id }])
}

/** The part of some data that a subtree filter selects (RFC 6241 §6): by containment, content match and selection. */
export function selected(data: readonly XmlPart[], filter: XmlElement | undefined): XmlPart[] {
  if (!filter) return [...data]
  return filter.children.flatMap((wanted) => data.flatMap((part) => narrowed(part, wanted, '')))
}

function narrowed(part: XmlPart, wanted: XmlElement, around: string): XmlPart[] {
  const [name, content, attributes] = part
  const ns = attributes?.['xmlns'] ?? around
  if (name !== wanted.name || (wanted.ns !== '' && wanted.ns !== BASE_NS && ns !== wanted.ns)) return []
  if (wanted.children.length === 0)
    return wanted.text.trim() === '' || String(content) === wanted.text.trim() ? [part] : []
  if (content === null || typeof content !== 'object') return []
  const parts = content.filter((one) => one !== null)
  const matches = wanted.children.filter((child) => child.children.length === 0 && child.text.trim() !== '')
  if (!matches.every((match) => parts.some(([of, value]) => of === match.name && String(value) === match.text.trim())))
    return []
  const others = wanted.children.filter((child) => !matches.includes(child))
  // Where only values are matched, the whole entry is meant (§6.2.5).
  if (others.length === 0) return [part]
  const left = parts
    .filter(
      (one) =>
        matches.some((match) => match.name === one[0]) || others.some((child) => narrowed(one, child, ns).length > 0),
    )
    .map((one) => others.flatMap((child) => narrowed(one, child, ns))[0] ?? one)
  return left.length > 0 ? [[name, left, attributes ?? {}]] : []
}
