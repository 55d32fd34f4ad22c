import { tailOf } from '../syntax/index.ts'
/** Where a cursor stands in YAML that is being written, and what a JSON Schema allows there. */

export interface YamlPlace {
  /** Keys from the outside in, `*` for an entry of a list; in the place of a value its own key included. */
  readonly path: readonly string[]
  readonly at: 'key' | 'value'
  /** What stands of the word so far, and where it begins. */
  readonly word: string
  readonly from: number
}

interface Level {
  readonly column: number
  /** Null: an entry of a list. */
  readonly key: string | null
}

/**
 * @param offset counted from 0; half-written lines are no hindrance, since only the lines before and indentation are
 * looked at
 */
export function placeAt(text: string, offset: number): YamlPlace {
  const start = text.lastIndexOf('\n', offset - 1) + 1
  const before = text.slice(start, offset)
  const { levels, rest, restAt } = levelsOf(before)
  const outer = outerLevels(text.slice(0, start), levels[0]?.column ?? restAt, levels[0]?.key === null)
  const path = [...outer, ...levels].map(({ key }) => key ?? '*')
  // Whatever is not a bracket is the value, or the key that is being written.
  const inner = flowPlace(rest)
  const word = tailOf(rest, /[\w-]/)
  const from = offset - word.length
  if (inner) return { path: [...path, ...inner.path], at: inner.at, word, from }
  return { path, at: typeof levels.at(-1)?.key === 'string' ? 'value' : 'key', word, from }
}

/** The list marks and the key with which a line begins, and what comes after them. */
function levelsOf(line: string): { levels: Level[]; rest: string; restAt: number } {
  const levels: Level[] = []
  let at = /^ */.exec(line)?.[0].length ?? 0
  for (;;) {
    const mark = /^- */.exec(line.slice(at))
    if (!mark || !/^-(?: |$)/.test(line.slice(at))) break
    levels.push({ column: at, key: null })
    at += mark[0].length
  }
  const key = /^([\w.-]+|"[^"]*"|'[^']*'): */.exec(line.slice(at))
  if (key) {
    levels.push({ column: at, key: (key[1] ?? '').replace(/^["']|["']$/g, '') })
    at += key[0].length
  }
  return { levels, rest: line.slice(at), restAt: at }
}

/** The levels around a column, by the lines before. @param entry whether an entry of a list stands at the column */
function outerLevels(above: string, column: number, entry: boolean): Level[] {
  const found: Level[] = []
  let limit = column
  let inEntry = entry
  const lines = above.split('\n')
  for (let i = lines.length - 1; i >= 0 && (limit > 0 || inEntry); i--) {
    const line = lines[i] ?? ''
    if (/^\s*(?:#|$)/.test(line)) continue
    for (const level of levelsOf(line).levels.reverse()) {
      // The entries of a list may stand right beneath its key.
      if (level.column > limit || (level.column === limit && (!inEntry || level.key === null))) continue
      found.unshift(level)
      limit = level.column
      inEntry = level.key === null
    }
  }
  return found
}

/** Within the brackets of one line; null where none is open. */
function flowPlace(rest: string): Pick<YamlPlace, 'path' | 'at'> | null {
  const open: { list: boolean; key: string | null }[] = []
  let quote = ''
  let word = ''
  for (const char of rest) {
    if (quote !== '') {
      if (char === quote) quote = ''
      else word += char
      continue
    }
    const top = open.at(-1)
    if (char === '"' || char === "'") quote = char
    else if (char === '{' || char === '[') {
      open.push({ list: char === '[', key: null })
      word = ''
    } else if (char === '}' || char === ']') {
      open.pop()
      word = ''
    } else if (char === ',') {
      if (top && !top.list) top.key = null
      word = ''
    } else if (char === ':' && top && !top.list && top.key === null) {
      top.key = word.trim()
      word = ''
    } else word += char
  }
  if (open.length === 0) return null
  const path = open.flatMap(({ list, key }) => (list ? ['*'] : key === null ? [] : [key]))
  const last = open.at(-1)
  return { path, at: last?.list || typeof last?.key === 'string' ? 'value' : 'key' }
}

/** What can stand at a place: keys of a map, or the values of a choice. */
export function offersAt(schema: object, { path, at }: Pick<YamlPlace, 'path' | 'at'>): readonly string[] {
  let nodes = expanded(schema, [schema as Node])
  for (const step of path)
    nodes = expanded(
      schema,
      nodes.flatMap((node) =>
        step === '*'
          ? list(node['items'])
          : [
              ...list(propertiesOf(node)[step]),
              ...(step in propertiesOf(node) ? [] : list(node['additionalProperties'])),
            ],
      ),
    )
  if (at === 'key') return [...new Set(nodes.flatMap((node) => Object.keys(propertiesOf(node))))]
  return [
    ...new Set(
      nodes
        .flatMap((node) =>
          Array.isArray(node['enum'])
            ? node['enum']
            : 'const' in node
              ? [node['const']]
              : node['type'] === 'boolean'
                ? [true, false]
                : [],
        )
        .map(String),
    ),
  ]
}

type Node = Readonly<Record<string, unknown>>

function propertiesOf(node: Node): Readonly<Record<string, unknown>> {
  return isNode(node['properties']) ? node['properties'] : {}
}

function list(value: unknown): Node[] {
  return isNode(value) ? [value] : []
}

function isNode(value: unknown): value is Node {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

/** With references followed and choices laid open, each node once. */
function expanded(root: object, nodes: readonly Node[]): Node[] {
  const seen = new Set<Node>()
  const visit = (node: Node): void => {
    if (seen.has(node)) return
    seen.add(node)
    if (typeof node['$ref'] === 'string') list(resolved(root, node['$ref'])).forEach(visit)
    for (const choice of ['anyOf', 'oneOf', 'allOf'])
      if (Array.isArray(node[choice])) (node[choice] as unknown[]).filter(isNode).forEach(visit)
  }
  nodes.forEach(visit)
  return [...seen]
}

function resolved(root: object, reference: string): unknown {
  return reference
    .replace(/^#\/?/, '')
    .split('/')
    .filter(Boolean)
    .reduce<unknown>(
      (at, step) => (isNode(at) ? at[step.replaceAll('~1', '/').replaceAll('~0', '~')] : undefined),
      root,
    )
}
