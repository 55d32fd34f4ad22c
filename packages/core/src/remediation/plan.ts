import type { InactivePart, LocatedTree, Scope, Statement, Syntax } from '../syntax/index.ts'
import { statementText } from '../compare/index.ts'
import type { Edit } from '../rules/index.ts'

/** Commands in the order in which they are typed in configuration mode, and those that undo them. */
export interface Plan {
  readonly commands: readonly string[]
  readonly rollback: readonly string[]
  /** What was deactivated and holds again, with all that comes back with it. */
  readonly activated: readonly InactivePart[]
}

interface Step {
  readonly block: string | null
  readonly commands: readonly string[]
  readonly undo: readonly string[]
  readonly activated: readonly InactivePart[]
}

/** Turns edits into commands: in each block the old lines come out before the new ones go in. */
export function planFor(edits: readonly Edit[], device: Scope, dialect: Syntax): Plan {
  const steps = edits.map((edit) => stepFor(edit, device, dialect)).filter((step) => step.commands.length > 0)
  const activated = [
    ...new Map(steps.flatMap((step) => step.activated.map((part) => [part.path, part] as const))).values(),
  ]
  return {
    activated,
    commands: steps.flatMap((step) => typed(step.block, step.commands)),
    rollback: [...steps].reverse().flatMap((step) => typed(step.block, step.undo)),
  }
}

function typed(block: string | null, commands: readonly string[]): string[] {
  return block === null ? [...commands] : [block, ...commands.map((command) => ` ${command}`), 'exit']
}

function stepFor(edit: Edit, device: Scope, dialect: Syntax): Step {
  const scope = edit.block === null ? device : (blockNamed(device, edit.block) ?? device)
  const kind = edit.block === null ? undefined : scope.openers[0]?.block
  const remove = [...new Set(edit.remove)]
  const add = [...new Set(edit.add)].filter((text) => !remove.includes(text))
  const undo: string[] = []
  const activated = scope.inactive.filter(({ path }) => add.some((text) => isBeneath(text, path)))
  const asleep = activated.flatMap(({ statements }) => statements)
  const displaced = new Set(
    remove.length === 0
      ? []
      : scope.statements.filter((statement) => isTakenOut(statementText(statement), remove, dialect)),
  )
  for (const text of [...add].reverse()) {
    const alike = scope.startingWith(firstWordOf(text))
    // What is there and does not hold stays there.
    if (asleep.includes(text)) continue
    const sleeping = asleep.find((other) => dialect.keyOf(other, kind) === dialect.keyOf(text, kind))
    if (sleeping !== undefined) {
      undo.push(dialect.typing.add(sleeping))
      continue
    }
    const replaced = alike.filter((statement) => displaces(text, statement, kind, dialect))
    for (const statement of replaced) displaced.add(statement)
    // Where the line took nothing's place, its absence comes back.
    if (replaced.length === 0 && !alike.some((statement) => statementText(statement) === text))
      undo.push(dialect.typing.forget(keyWords(positive(text), kind, dialect)))
  }
  for (const statement of displaced) undo.push(...retyped(statement, dialect))
  const woken = activated.map(({ path }) => path)
  return {
    block: edit.block,
    commands: [
      ...remove.flatMap((text) => dialect.typing.remove(text).split('\n')),
      ...woken.map((path) => `activate ${path}`),
      ...add.flatMap((text) => dialect.typing.add(text).split('\n')),
    ],
    undo: [...undo.flatMap((text) => text.split('\n')), ...woken.map((path) => `deactivate ${path}`)],
    activated,
  }
}

function isBeneath(text: string, path: string): boolean {
  return text === path || text.startsWith(`${path} `)
}

/** A path goes with all that lies beneath it. */
function isTakenOut(text: string, remove: readonly string[], dialect: Syntax): boolean {
  return remove.includes(text) || (dialect.typing.byPath && remove.some((head) => text.startsWith(`${head} `)))
}

function blockNamed(device: Scope, name: string): Scope | null {
  const first = name.split(' ', 1)[0]?.toLowerCase() ?? ''
  return device.startingWith(first).find((statement) => statement.text === name && statement.scope)?.scope ?? null
}

/** The key words of a command that holds one value; the whole of one that collects. */
function keyWords(text: string, kind: string | undefined, dialect: Syntax): string {
  const key = dialect.keyOf(dialect.canonical(text), kind)
  return key !== null && `${text} `.startsWith(`${key} `) ? key : text
}

/** What a line can displace begins with its own first word. */
function firstWordOf(text: string): string {
  return (positive(text).split(' ', 1)[0] ?? '').toLowerCase()
}

function positive(text: string): string {
  return text.startsWith('no ') ? text.slice(3) : text
}

/** Whether typing `text` takes a standing statement away. */
function displaces(text: string, statement: Statement, kind: string | undefined, dialect: Syntax): boolean {
  const bare = dialect.canonical(positive(text))
  if (statementText(statement) === text) return false
  const key = dialect.keyOf(bare, kind)
  if (key !== null && key === dialect.keyOf(statement.text, kind)) return true
  if (text.startsWith('no ')) return !statement.negated && `${statement.text} `.startsWith(`${bare} `)
  return statement.negated && `${bare} `.startsWith(`${statement.text} `)
}

/** The lines of a statement as they would be typed again, its block and free text included. */
function retyped(statement: Statement, dialect: Syntax): string[] {
  const body = statement.nodes.at(-1)?.body
  const banner = body === undefined ? null : /^(banner \S+) (\^\S|\S)/.exec(statement.text)
  const head = banner ? `${banner[1]} ${banner[2]}${body}${banner[2]}` : dialect.typing.add(statementText(statement))
  const children = (statement.scope?.statements ?? [])
    .flatMap((child) => retyped(child, dialect))
    .map((line) => ` ${line}`)
  return [...head.split('\n'), ...children, ...(statement.scope ? ['exit'] : [])]
}

/** What holds after commands were typed on a device: they are read as if entered after the listing. */
export function applyCommands(tree: LocatedTree, commands: readonly string[], dialect: Syntax): Scope {
  return dialect.apply([tree], commands)
}
