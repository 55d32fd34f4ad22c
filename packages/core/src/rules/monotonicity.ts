/**
 * Whether more lines could change what an expression over the model says. On a record that is not whole, what was found
 * stays found; only what rests on the absence of lines is unknown.
 */
/**
 * `more`: more lines can only make it true; `fewer`: only make it false; `none`: they cannot change it; `any`: they may
 * do either.
 */
export type Change = 'none' | 'more' | 'fewer' | 'any'

/** A node of a parsed expression (CEL): its operator, and what it works on. */
export interface Node {
  readonly op: string
  readonly args: unknown
}

/** What is known of the parts of the model that an expression names. */
export interface Stated {
  /** Whether lines state what stands at a path: no other line changes it. Null where it is none of the model. */
  isStated(path: string): boolean | null
  isList(path: string): boolean
  /** Whether further lines may put another value in the place of one that entries have by default. */
  isReplaceable(path: string): boolean
}

interface Known extends Stated {
  /** By the name of an entry that a comprehension goes through: the path of its list; null where it has none. */
  readonly entries: ReadonlyMap<string, string | null>
}

const OPPOSITE: Readonly<Record<Change, Change>> = { none: 'none', more: 'fewer', fewer: 'more', any: 'any' }

function together(changes: readonly Change[]): Change {
  const real = [...new Set(changes.filter((change) => change !== 'none'))]
  return real.length === 0 ? 'none' : real.length === 1 ? (real[0] ?? 'any') : 'any'
}

/** @param stated what is known of the model */
export function changeOf(node: Node, stated: Stated): Change {
  return change(node, { ...stated, entries: new Map() })
}

function change(node: Node, known: Known): Change {
  const args = Array.isArray(node.args) ? (node.args as unknown[]) : [node.args]
  const nodes = args.filter(isNode)
  switch (node.op) {
    case 'value':
      return 'none'
    case '!_':
      return nodes[0] ? OPPOSITE[change(nodes[0], known)] : 'any'
    case '&&':
    case '||':
      return together(nodes.map((one) => change(one, known)))
    case '==':
    case '!=':
    case '<':
    case '<=':
    case '>':
    case '>=':
    case 'in':
      return comparison(node.op, nodes, known)
    case 'id':
    case '.':
      // A truth value: no line that says so, and one may come.
      return fieldChange(node, known) === 'none' ? 'none' : onlyComes(node, known) ? 'more' : 'any'
    case 'rcall':
      return called(args, known)
    case 'call':
      return together(nodes.map((one) => valueChange(one, known))) === 'none' ? 'none' : 'any'
    case 'list':
      return together(nodes.map((one) => valueChange(one, known)))
    default:
      return 'any'
  }
}

function isNode(value: unknown): value is Node {
  return typeof value === 'object' && value !== null && 'op' in value
}

/** `system.ntp.servers`; null where it is no path of names. */
function pathOf(node: Node): string | null {
  if (node.op === 'id') return String(node.args)
  if (node.op !== '.' || !Array.isArray(node.args)) return null
  const [inner, field] = node.args as [Node, string]
  const path = pathOf(inner)
  return path === null ? null : `${path}.${field}`
}

function isEntryField(node: Node, { entries }: Known): boolean {
  const root = pathOf(node)?.split('.')[0]
  return root !== undefined && entries.has(root)
}

/** A field of an entry that keeps what lines state of it: where none does, a value may come. */
function onlyComes(node: Node, known: Known): boolean {
  if (!isEntryField(node, known)) return false
  const path = wholePathOf(node, known)
  return path !== null && !known.isReplaceable(path)
}

/** Of a field of an entry, from the model on: `i.mtu` of `interfaces` is `interfaces.mtu`. */
function wholePathOf(node: Node, { entries }: Known): string | null {
  const path = pathOf(node)
  if (path === null) return null
  const [root = '', ...rest] = path.split('.')
  const list = entries.get(root)
  return list === undefined ? path : list === null ? null : [list, ...rest].join('.')
}

/** Whether more lines may change a value itself. */
function fieldChange(node: Node, known: Known): 'none' | 'any' {
  const path = pathOf(node)
  if (path === null) return 'any'
  if (isEntryField(node, known)) return 'any'
  return known.isStated(path) === false ? 'any' : 'none'
}

function valueChange(node: Node, known: Known): Change {
  if (node.op === 'id' || node.op === '.') return fieldChange(node, known)
  return change(node, known)
}

/** What `size()` is asked of; null where it is not. */
function sizedBy(node: Node): Node | null {
  if (node.op !== 'rcall' || !Array.isArray(node.args) || node.args[0] !== 'size') return null
  return node.args[1] as Node
}

function comparison(op: string, nodes: readonly Node[], known: Known): Change {
  const [left, right] = nodes
  if (!left || !right) return 'any'
  if (op === 'in') {
    const found = onlyComes(left, known) ? 'more' : valueChange(left, known)
    return together([found, listChange(right, known)])
  }
  const sized = sizedBy(left)
  if (sized && valueChange(right, known) === 'none') return sizeComparison(op, listChange(sized, known), right)
  const changing = [left, right].filter((one) => valueChange(one, known) !== 'none')
  if (changing.length === 0) return 'none'
  const [only] = changing
  if (only === undefined || changing.length > 1) return 'any'
  const isPath = pathOf(only) !== null
  if (isPath && [left, right].some(isNull)) return op === '==' ? 'fewer' : 'more'
  // What an entry states is found; what it does not state may come.
  if (onlyComes(only, known)) return op === '!=' ? 'fewer' : 'more'
  return 'any'
}

function sizeComparison(op: string, list: Change, right: Node): Change {
  if (list !== 'more') return list === 'none' ? 'none' : 'any'
  if (op === '>' || op === '>=') return 'more'
  return op === '<' || op === '<=' || (op === '==' && isNought(right)) ? 'fewer' : 'any'
}

function isNull(node: Node): boolean {
  return node.op === 'value' && node.args === null
}

function isNought(node: Node): boolean {
  return node.op === 'value' && Number(node.args) === 0
}

/** `more`: entries may come and none goes; `none`: it stays as it is. */
function listChange(node: Node, known: Known): 'none' | 'more' | 'any' {
  const path = pathOf(node)
  if (path !== null) {
    if (isEntryField(node, known)) return onlyComes(node, known) ? 'more' : 'any'
    if (known.isStated(path) === null) return 'none'
    return known.isList(path) ? 'more' : fieldChange(node, known)
  }
  const [name, target, parameters] = (node.op === 'rcall' ? node.args : []) as [string?, Node?, Node[]?]
  const [variable, inner] = parameters ?? []
  if ((name === 'filter' || name === 'map') && target && variable && inner) {
    const inside = through(target, variable, known)
    // A value that changes is another entry, whichever way it changes.
    const within = name === 'filter' ? change(inner, inside) : valueChange(inner, inside) === 'none' ? 'none' : 'any'
    const all = together([listChange(target, known), within])
    return all === 'fewer' ? 'any' : all
  }
  return valueChange(node, known) === 'none' ? 'none' : 'any'
}

/** What is known within a comprehension over a list. */
function through(target: Node, variable: Node, known: Known): Known {
  return { ...known, entries: new Map([...known.entries, [pathOf(variable) ?? '', listPathOf(target, known)]]) }
}

/** Where the entries of a list stand in the model, also of one that was filtered; null where they stand nowhere. */
function listPathOf(node: Node, known: Known): string | null {
  if (node.op !== 'rcall') return wholePathOf(node, known)
  const [name, target] = node.args as [string, Node]
  return name === 'filter' ? listPathOf(target, known) : null
}

function called(args: readonly unknown[], known: Known): Change {
  const [name, target, parameters] = args as [string, Node, Node[]]
  const [variable, inner] = parameters
  if ((name === 'exists' || name === 'all') && variable && inner) {
    const list = listChange(target, known)
    const within = change(inner, through(target, variable, known))
    return together([name === 'all' && list === 'more' ? 'fewer' : list, within])
  }
  return together([target, ...parameters].filter(isNode).map((one) => valueChange(one, known))) === 'none'
    ? 'none'
    : 'any'
}
