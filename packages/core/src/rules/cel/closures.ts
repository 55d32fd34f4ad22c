/**
 * Expressions as closures: an expression is put to thousands of entries, and its interpreter asks for the types of all
 * values each time. A closure knows the usual values only; whatever else it meets, the interpreter evaluates, so that
 * results and errors are always the language's own.
 */
import type { Bindings } from '../../model/index.ts'
import type { Node } from '../monotonicity.ts'
import { FUNCTIONS } from './functions.ts'

type Closure = (names: Bindings, variables: unknown[]) => unknown

/** Thrown where a closure does not know what the language says: the interpreter is asked. */
export const ASK_INTERPRETER = new Error('not a usual value')

function unusual(): never {
  throw ASK_INTERPRETER
}

/** Names of the entries that macros go through, outermost first: the place of each is that of its value. */
type Variables = readonly string[]

/**
 * Null where the expression has a part that no closure is made of.
 * @param entry a name that is given with each call rather than bound: that of an entry that is gone through
 */
export function closureOf(ast: Node, entry?: string): ((names: Bindings, entry?: unknown) => unknown) | null {
  const closure = compile(ast, entry === undefined ? [] : [entry])
  if (!closure) return null
  return entry === undefined ? (names) => closure(names, []) : (names, value) => closure(names, [known(value)])
}

function compile(node: Node, variables: Variables): Closure | null {
  const make = OPERATORS[node.op]
  return make ? make(node, variables) : null
}

/** All of some parts, or null where one of them is none. */
function compileAll(nodes: readonly Node[], variables: Variables): Closure[] | null {
  const closures = nodes.map((node) => compile(node, variables))
  return closures.every((one) => one !== null) ? closures : null
}

function argsOf(node: Node): readonly unknown[] {
  return Array.isArray(node.args) ? (node.args as unknown[]) : [node.args]
}

function unary(of: (value: unknown) => unknown): (node: Node, variables: Variables) => Closure | null {
  return (node, variables) => {
    const inner = compile(argsOf(node)[0] as Node, variables)
    return inner && ((names, values) => of(inner(names, values)))
  }
}

function binary(of: (left: unknown, right: unknown) => unknown): (node: Node, variables: Variables) => Closure | null {
  return (node, variables) => {
    const [left, right] = compileAll(argsOf(node) as Node[], variables) ?? []
    return left && right ? (names, values) => of(left(names, values), right(names, values)) : null
  }
}

/** Of numbers, whole or not, and of texts. */
function ordered(compare: (left: number | string, right: number | string) => boolean) {
  return binary((left, right) =>
    (isNumber(left) && isNumber(right)) || (typeof left === 'string' && typeof right === 'string')
      ? compare(left as number, right as number)
      : unusual(),
  )
}

/** Names that stand for types, whatever is bound. */
const TYPES = new Set(['bool', 'bytes', 'double', 'dyn', 'int', 'list', 'map', 'null_type', 'string', 'type', 'uint'])

/** The interpreter takes the kind of a written list from its first item, and refuses others in what goes through it. */
function ofOneKind(list: unknown[]): unknown[] {
  const first = kindOf(list[0])
  return list.every((value) => kindOf(value) === first) ? list : unusual()
}

function kindOf(value: unknown): string {
  if (Array.isArray(value)) return value.length === 0 ? 'list' : `list of ${kindOf(value[0])}`
  return value === null ? 'null' : typeof value
}

const MAX_INT = 2n ** 63n - 1n

/** Of whole numbers, as long as the result is one of 64 bits. */
function arithmetic(of: (left: bigint, right: bigint) => bigint) {
  return binary((left, right) => calculated(of, left, right))
}

function calculated(of: (left: bigint, right: bigint) => bigint, left: unknown, right: unknown): bigint {
  if (typeof left !== 'bigint' || typeof right !== 'bigint') return unusual()
  const result = of(left, right)
  return result <= MAX_INT && result >= -MAX_INT ? result : unusual()
}

const OPERATORS: Readonly<Record<string, (node: Node, variables: Variables) => Closure | null>> = {
  value: (node) => {
    const { args } = node
    return () => args
  },
  id: (node, variables) => {
    const name = String(node.args)
    const at = variables.lastIndexOf(name)
    if (at >= 0) return (_, values) => values[at]
    if (TYPES.has(name)) return null
    return (names) => {
      const value = names[name]
      return value === undefined ? unusual() : value
    }
  },
  '.': (node, variables) => {
    const [inner, field] = argsOf(node) as [Node, string]
    const holder = compile(inner, variables)
    return holder && ((names, values) => fieldOf(holder(names, values), field))
  },
  '[]': binary(elementAt),
  '!_': unary((value) => (typeof value === 'boolean' ? !value : unusual())),
  '-_': unary((value) => (typeof value === 'bigint' || typeof value === 'number' ? -value : unusual())),
  '&&': (node, variables) => {
    const [left, right] = compileAll(argsOf(node) as Node[], variables) ?? []
    return left && right ? (names, values) => truthOf(left(names, values)) && truthOf(right(names, values)) : null
  },
  '||': (node, variables) => {
    const [left, right] = compileAll(argsOf(node) as Node[], variables) ?? []
    return left && right ? (names, values) => truthOf(left(names, values)) || truthOf(right(names, values)) : null
  },
  '?:': (node, variables) => {
    const [condition, yes, no] = compileAll(argsOf(node) as Node[], variables) ?? []
    return condition && yes && no
      ? (names, values) => (truthOf(condition(names, values)) ? yes(names, values) : no(names, values))
      : null
  },
  '==': binary(isEqual),
  '!=': binary((left, right) => !isEqual(left, right)),
  '<': ordered((left, right) => left < right),
  '<=': ordered((left, right) => left <= right),
  '>': ordered((left, right) => left > right),
  '>=': ordered((left, right) => left >= right),
  in: binary(isIn),
  '+': binary(sumOf),
  '-': arithmetic((left, right) => left - right),
  '*': arithmetic((left, right) => left * right),
  '/': arithmetic((left, right) => (right === 0n ? unusual() : left / right)),
  '%': arithmetic((left, right) => (right === 0n ? unusual() : left % right)),
  list: (node, variables) => {
    const parts = compileAll(argsOf(node) as Node[], variables)
    return parts && ((names, values) => ofOneKind(parts.map((part) => part(names, values))))
  },
  call: (node, variables) => {
    const [name, args] = argsOf(node) as [string, Node[]]
    return compileCall(name, [], args, variables)
  },
  rcall: (node, variables) => {
    const [name, receiver, args] = argsOf(node) as [string, Node, Node[]]
    const macro = MACROS[name]
    const [variable] = args
    if (macro && args.length === 2 && variable?.op === 'id') {
      const list = compile(receiver, variables)
      const part = compile(args[1] as Node, [...variables, String(variable.args)])
      return list && part && macro(list, part, variables.length)
    }
    return compileCall(name, [receiver], args, variables)
  },
}

function sumOf(left: unknown, right: unknown): unknown {
  if (typeof left === 'string' && typeof right === 'string') return left + right
  return calculated((a, b) => a + b, left, right)
}

function truthOf(value: unknown): boolean {
  return typeof value === 'boolean' ? value : unusual()
}

/** A field that an object has itself. */
function fieldOf(holder: unknown, field: string): unknown {
  if (!isPlain(holder) || !Object.hasOwn(holder, field)) return unusual()
  return known((holder as Readonly<Record<string, unknown>>)[field])
}

function elementAt(holder: unknown, at: unknown): unknown {
  if (Array.isArray(holder) && typeof at === 'bigint' && at >= 0n && at < BigInt(holder.length))
    return known(holder[Number(at)])
  return typeof at === 'string' ? fieldOf(holder, at) : unusual()
}

function isPlain(value: unknown): value is object {
  if (typeof value !== 'object' || value === null) return false
  const { constructor } = value as { readonly constructor?: unknown }
  return constructor === Object || constructor === undefined
}

/** Values of kinds that the language has; of others the interpreter tells. */
function known(value: unknown): unknown {
  switch (typeof value) {
    case 'string':
    case 'boolean':
    case 'number':
    case 'bigint':
      return value
    default:
      return value === null || Array.isArray(value) || isPlain(value) ? value : unusual()
  }
}

function isNumber(value: unknown): value is number | bigint {
  return typeof value === 'number' || typeof value === 'bigint'
}

/** Equality of what is no list and no map: of other kinds, and of null, nothing is equal. */
function isEqual(left: unknown, right: unknown): boolean {
  if (isNumber(left)) return isNumber(right) ? equalNumbers(left, right) : isSimple(right) ? false : unusual()
  return isSimple(left) && isSimple(right) ? left === right : unusual()
}

function isSimple(value: unknown): boolean {
  return value === null || typeof value === 'string' || typeof value === 'boolean' || isNumber(value)
}

/** Whole numbers and others are compared as numbers: `1 == 1.0`. */
function equalNumbers(left: number | bigint, right: number | bigint): boolean {
  return !(left < right) && !(left > right) && left >= right
}

/** A text among texts. */
function isIn(value: unknown, list: unknown): boolean {
  if (typeof value !== 'string' || !Array.isArray(list)) return unusual()
  let found = false
  for (const one of list) {
    if (typeof one !== 'string') return unusual()
    if (one === value) found = true
  }
  return found
}

const MACROS: Readonly<Record<string, (list: Closure, part: Closure, at: number) => Closure>> = {
  exists: (list, part, at) => (names, values) => {
    for (const entry of entriesOf(list(names, values))) {
      values[at] = entry
      if (truthOf(part(names, values))) return true
    }
    return false
  },
  all: (list, part, at) => (names, values) => {
    for (const entry of entriesOf(list(names, values))) {
      values[at] = entry
      if (!truthOf(part(names, values))) return false
    }
    return true
  },
  exists_one: (list, part, at) => (names, values) => {
    let found = 0
    for (const entry of entriesOf(list(names, values))) {
      values[at] = entry
      if (truthOf(part(names, values))) found++
    }
    return found === 1
  },
  filter: (list, part, at) => (names, values) =>
    entriesOf(list(names, values)).filter((entry) => {
      values[at] = entry
      return truthOf(part(names, values))
    }),
  map: (list, part, at) => (names, values) =>
    entriesOf(list(names, values)).map((entry) => {
      values[at] = entry
      return part(names, values)
    }),
}

function entriesOf(value: unknown): readonly unknown[] {
  if (!Array.isArray(value)) return unusual()
  for (const entry of value) known(entry)
  return value
}

/** Functions of the language itself that closures know, as those of our own are stated. */
const OF_THE_LANGUAGE = [
  { signature: 'size(string): int', run: (text: string) => sizeOfText(text) },
  { signature: 'size(list<dyn>): int', run: (list: readonly unknown[]) => BigInt(list.length) },
  { signature: 'string.size(): int', run: (text: string) => sizeOfText(text) },
  { signature: 'list<dyn>.size(): int', run: (list: readonly unknown[]) => BigInt(list.length) },
  { signature: 'int(int): int', run: (value: bigint) => value },
  { signature: 'int(double): int', run: (value: number) => (Number.isSafeInteger(value) ? BigInt(value) : unusual()) },
  { signature: 'string(int): string', run: String },
  { signature: 'string(string): string', run: (text: string) => text },
  { signature: 'string.startsWith(string): bool', run: (text: string, part: string) => text.startsWith(part) },
  { signature: 'string.endsWith(string): bool', run: (text: string, part: string) => text.endsWith(part) },
]

/** In code points. */
function sizeOfText(text: string): bigint {
  return /[\ud800-\udfff]/.test(text) ? unusual() : BigInt(text.length)
}

const IS_OF: Readonly<Record<string, (value: unknown) => boolean>> = {
  string: (value) => typeof value === 'string',
  int: (value) => typeof value === 'bigint',
  double: (value) => typeof value === 'number',
  bool: (value) => typeof value === 'boolean',
  dyn: () => true,
  'list<dyn>': (value) => Array.isArray(value),
}

interface Overload {
  readonly types: readonly ((value: unknown) => boolean)[]
  readonly run: (...args: unknown[]) => unknown
}

/** By name, by whether something stands before the dot, and by the number of arguments. */
const OVERLOADS = overloads()

function overloads(): ReadonlyMap<string, readonly Overload[]> {
  const found = new Map<string, Overload[]>()
  for (const { signature, run } of [...OF_THE_LANGUAGE, ...FUNCTIONS]) {
    const [, receiver, name = '', args = ''] = /^(?:(.+)\.)?(\w+)\((.*)\):/.exec(signature) ?? []
    const stated = [receiver ?? [], args === '' ? [] : args.split(/,\s*/)].flat()
    const types = stated.map((type) => IS_OF[type])
    if (!types.every((type) => type !== undefined)) continue
    const key = keyOf(name, receiver !== undefined, types.length)
    found.set(key, [...(found.get(key) ?? []), { types, run: run as Overload['run'] }])
  }
  return found
}

function keyOf(name: string, hasReceiver: boolean, args: number): string {
  return `${hasReceiver ? '.' : ''}${name}/${args}`
}

function compileCall(
  name: string,
  receiver: readonly Node[],
  args: readonly Node[],
  variables: Variables,
): Closure | null {
  const own = OVERLOADS.get(keyOf(name, receiver.length > 0, receiver.length + args.length))
  const parts = compileAll([...receiver, ...args], variables)
  if (!own || !parts) return null
  return (names, values) => {
    const given = parts.map((part) => part(names, values))
    const fitting = own.find(({ types }) => types.every((isOf, i) => isOf(given[i])))
    return fitting ? fitting.run(...given) : unusual()
  }
}
