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

interface Known {
  /** Whether lines state the part of the model at a path; null where the path is none of the model. */
  readonly isStated: (path: string) => boolean | null
  /** Names of entries that a comprehension goes through. */
  readonly entries: ReadonlySet<string>
}

const OPPOSITE: Readonly<Record<Change, Change>> = { none: 'none', more: 'fewer', fewer: 'more', any: 'any' }

function together(changes: readonly Change[]): Change {
  const real = [...new Set(changes.filter((change) => change !== 'none'))]
  return real.length === 0 ? 'none' : real.length === 1 ? (real[0] ?? 'any') : 'any'
}

export function changeOf(node: Node, isStated: Known['isStated']): Change {
  return change(node, { isStated, entries: new Set() })
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
      return fieldChange(node, known) === 'none' ? 'none' : isEntryField(node, known) ? 'more' : 'any'
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

/** `x.size()`, of a list of the model. */
function isSize(node: Node): boolean {
  return node.op === 'rcall' && Array.isArray(node.args) && node.args[0] === 'size'
}

function comparison(op: string, nodes: readonly Node[], known: Known): Change {
  const [left, right] = nodes
  if (!left || !right) return 'any'
  if (op === 'in')
    return isModelList(right, known) ? 'more' : together([valueChange(left, known), valueChange(right, known)])
  if (isSize(left) && valueChange(right, known) === 'none')
    return op === '>' || op === '>='
      ? 'more'
      : op === '<' || op === '<=' || (op === '==' && isNought(right))
        ? 'fewer'
        : 'any'
  const changing = [left, right].filter((one) => valueChange(one, known) !== 'none')
  if (changing.length === 0) return 'none'
  const null0 = [left, right].some((one) => one.op === 'value' && one.args === null)
  if (null0) return op === '==' ? 'fewer' : 'more'
  // What an entry states is found; what it does not state may come.
  if (changing.every((one) => isEntryField(one, known))) return op === '!=' ? 'fewer' : 'more'
  return 'any'
}

function isNought(node: Node): boolean {
  return node.op === 'value' && Number(node.args) === 0
}

function isModelList(node: Node, known: Known): boolean {
  const path = pathOf(node)
  return path !== null && (isEntryField(node, known) || known.isStated(path) !== null)
}

function called(args: readonly unknown[], known: Known): Change {
  const [name, target, parameters] = args as [string, Node, Node[]]
  const variable = parameters[0] ? pathOf(parameters[0]) : null
  const inner = parameters[1]
  if ((name === 'exists' || name === 'all') && variable !== null && inner) {
    const within = change(inner, { ...known, entries: new Set([...known.entries, variable]) })
    if (!isModelList(target, known)) return within
    if (name === 'exists') return within === 'none' || within === 'more' ? 'more' : 'any'
    return within === 'none' || within === 'fewer' ? 'fewer' : 'any'
  }
  return together([target, ...parameters].filter(isNode).map((one) => valueChange(one, known))) === 'none'
    ? 'none'
    : 'any'
}
