/** A JSON text whose every value knows where it stands: offsets into the text, the end not included. */
export type LocatedValue = LocatedObject | LocatedArray | LocatedLeaf

interface Located {
  readonly from: number
  readonly to: number
}
export interface LocatedObject extends Located {
  readonly type: 'object'
  readonly members: readonly LocatedMember[]
}
export interface LocatedMember extends Located {
  readonly name: string
  readonly value: LocatedValue
}
export interface LocatedArray extends Located {
  readonly type: 'array'
  readonly items: readonly LocatedValue[]
}
export interface LocatedLeaf extends Located {
  readonly type: 'leaf'
  /**
   * Text of a string; of a number, `true`, `false` and `null` the characters as they stand (RFC 7951 has 64-bit
   * numbers).
   */
  readonly value: string
  readonly quoted: boolean
}

export interface JsonFault {
  readonly at: number
  readonly reason: string
}

/** Deeper than any data of these models; hostile input goes no deeper. */
const MAX_DEPTH = 64

interface Building {
  readonly type: 'object' | 'array'
  readonly from: number
  readonly members: LocatedMember[]
  readonly items: LocatedValue[]
  /** Of an object: the name that waits for its value, and where it stands. */
  name: { text: string; from: number } | null
}

/**
 * Reads JSON (RFC 8259) without recursion. What was read before a fault is given back with it: a text that is cut off
 * is read as far as it goes.
 */
export function parseJson(text: string): { value: LocatedValue | null; fault: JsonFault | null } {
  const open: Building[] = []
  let done: LocatedValue | null = null
  let fault: JsonFault | null = null
  let at = skipBlank(text, text.charCodeAt(0) === 0xfeff ? 1 : 0)

  /** A value that ends at `at` goes where it belongs. */
  const place = (value: LocatedValue): void => {
    const around = open.at(-1)
    if (!around) done = value
    else if (around.type === 'array') around.items.push(value)
    else if (around.name) {
      around.members.push({ name: around.name.text, value, from: around.name.from, to: value.to })
      around.name = null
    }
  }
  const close = (to: number): void => {
    const last = open.pop()
    if (last)
      place(
        last.type === 'object'
          ? { type: 'object', members: last.members, from: last.from, to }
          : { type: 'array', items: last.items, from: last.from, to },
      )
  }

  while (at < text.length && !done && !fault) {
    const char = text.charAt(at)
    const around = open.at(-1)
    if (char === '{' || char === '[') {
      if (open.length >= MAX_DEPTH)
        fault = { at, reason: `values are nested deeper than ${MAX_DEPTH}: nothing was read from here on` }
      else open.push({ type: char === '{' ? 'object' : 'array', from: at, members: [], items: [], name: null })
      at++
    } else if (char === '}' || char === ']') {
      if (around?.type !== (char === '}' ? 'object' : 'array'))
        fault = { at, reason: `"${char}" closes nothing that is open here` }
      else close(++at)
    } else if (char === ',' || char === ':') at++
    else if (char === '"') {
      const end = closingQuote(text, at + 1)
      if (end < 0) {
        fault = { at, reason: 'a text without its closing quote' }
        break
      }
      const string = unescaped(text.slice(at + 1, end))
      if (around?.type === 'object' && !around.name) around.name = { text: string, from: at }
      else place({ type: 'leaf', value: string, quoted: true, from: at, to: end + 1 })
      at = end + 1
    } else {
      const word = /[-+.\w]*/y
      word.lastIndex = at
      const found = word.exec(text)?.[0] ?? ''
      if (/^(?:true|false|null|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?)$/.test(found))
        place({ type: 'leaf', value: found, quoted: false, from: at, to: at + found.length })
      else fault = { at, reason: `expected a value, found ${JSON.stringify(text.slice(at, at + 12))}` }
      at += Math.max(1, found.length)
    }
    at = skipBlank(text, at)
  }
  if (!done && !fault)
    fault = { at: text.length, reason: open.length > 0 ? 'the text stops before its end' : 'there is no value' }
  else if (done && at < text.length) fault = { at, reason: 'something follows after the end' }
  while (open.length > 0) close(text.length)
  return { value: done, fault }
}

function skipBlank(text: string, from: number): number {
  let at = from
  for (; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (code !== 32 && code !== 10 && code !== 13 && code !== 9) break
  }
  return at
}

function closingQuote(text: string, from: number): number {
  for (let at = from; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (code === 0x5c) at++
    else if (code === 0x22) return at
  }
  return -1
}

function unescaped(text: string): string {
  if (!text.includes('\\')) return text
  return text.replace(/\\(?:u([\da-fA-F]{4})|(.))/gs, (_, hex: string | undefined, char: string | undefined) =>
    hex !== undefined ? String.fromCharCode(parseInt(hex, 16)) : (ESCAPES[char ?? ''] ?? char ?? ''),
  )
}

const ESCAPES: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t', b: '\b', f: '\f' }

/** The member of an object by its name, with or without the prefix of its module (RFC 7951 §4). */
export function member(value: LocatedValue | null | undefined, name: string): LocatedValue | null {
  if (value?.type !== 'object') return null
  return value.members.find((one) => one.name === name || one.name.endsWith(`:${name}`))?.value ?? null
}

/** The items of an array; none where the value is no array. */
export function items(value: LocatedValue | null | undefined): readonly LocatedValue[] {
  return value?.type === 'array' ? value.items : []
}

/** The text of a leaf; null of all else, and of `null`. */
export function leaf(value: LocatedValue | null | undefined): string | null {
  return value?.type === 'leaf' && (value.quoted || value.value !== 'null') ? value.value : null
}
