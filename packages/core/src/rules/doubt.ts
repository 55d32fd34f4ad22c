/** Unparsed lines that may be what a condition looks for. */
import type { Scope, Statement } from '../syntax/index.ts'
import { blocksAbout, formsAbout, mayBe, originOf, unreadAt, unreadPlaces, type Pattern } from '../model/index.ts'
import { placeOf, type Doubts, type CitedRange } from './evidence.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'

function places({ record }: JudgedDevice, statements: readonly Statement[]): CitedRange[] {
  return statements.flatMap(({ nodes }) => nodes.map((node) => placeOf(record, node)))
}

/** Whether a device has no unparsed line. */
export function isUnderstood(device: JudgedDevice): boolean {
  const modelled = device.modelled()
  return unreadPlaces(modelled).length === 0 && modelled.beside.length === 0
}

/** Unread lines, where the condition looked, that may have been meant to be of one of some forms. */
export function unreadLike(context: EvaluationContext, patterns: readonly Pattern[]): Doubts {
  return () => places(context.device, alike(context.device, context.scope, patterns))
}

/** All unread lines where the condition looked. */
export function unreadHere({ device, scope }: EvaluationContext): Doubts {
  return () => places(device, unreadAt(device.modelled(), scope))
}

function alike(device: JudgedDevice, scope: Scope, patterns: readonly Pattern[]): Statement[] {
  const block = blockOf(scope)
  return unreadAt(device.modelled(), scope).filter((statement) =>
    patterns.some((pattern) => mayBe(device.effective.dialect, block, statement, pattern)),
  )
}

/** The kind of block that a level is; null at the top. */
function blockOf({ openers }: Scope): string | null | undefined {
  return openers.length === 0 ? null : openers[0]?.block
}

/**
 * Unread lines that may say something about parts of the model.
 * @param paths as the origins know them: `interfaces[3].filters.in4`
 */
export function unreadAbout(device: JudgedDevice, paths: readonly string[]): Doubts {
  return () => {
    const found = new Set<Statement>()
    for (const path of paths) for (const statement of unreadOf(device, path)) found.add(statement)
    return [...places(device, [...found]), ...besideAbout(device, paths)]
  }
}

/** The same of records beside the configuration, which say of what they may speak. */
function besideAbout(device: JudgedDevice, paths: readonly string[]): CitedRange[] {
  const asked = paths.map((path) => path.replace(/\[\d+\]/g, ''))
  const isMeant = (part: string): boolean =>
    asked.some((path) => path === part || path.startsWith(`${part}.`) || part.startsWith(`${path}.`))
  return device
    .modelled()
    .beside.filter(({ parts }) => parts.some(isMeant))
    .map(({ record, line, lastLine }) => ({ record, from: line, to: lastLine, absent: false }))
}

function unreadOf(device: JudgedDevice, path: string): Statement[] {
  const all = unreadPlaces(device.modelled())
  if (all.length === 0) return []
  const dialect = device.effective.dialect
  const field = path.replace(/\[\d+\]/g, '')
  const own = ownLines(device, path)
  const kinds = blocksAbout(dialect, field)
  return all.flatMap(({ statement, scope, top }) => {
    if (top === null)
      return formsAbout(dialect, null, field).some(
        (form) => mayBe(dialect, null, statement, form) && isOf(statement, form, own),
      )
        ? [statement]
        : []
    const block = blockOf(scope)
    if ((own !== null && !own.includes(top)) || !kinds.has(block)) return []
    return formsAbout(dialect, block, field).some((form) => mayBe(dialect, block, statement, form)) ? [statement] : []
  })
}

/** Statements that an entry of the model is from; null where no entry is asked about, and any may be meant. */
function ownLines(device: JudgedDevice, path: string): readonly Statement[] | null {
  const entry = /^[^[]+\[\d+\]/.exec(path)?.[0]
  if (entry === undefined) return null
  const origin = originOf(device.modelled().origins, entry)
  if (origin?.kind !== 'line' || origin.record !== device.record) return null
  const lines = new Set(origin.lines.flatMap(({ from }) => from))
  return device.effective.scope.statements.filter(({ nodes }) => nodes.some(({ line }) => lines.has(line)))
}

/** Whether a statement names what an entry is named by, in the places where a form has names. */
function isOf(statement: Statement, { tokens }: Pattern, own: readonly Statement[] | null): boolean {
  if (own === null) return true
  const named = tokens.flatMap((token, i) => (token.kind === 'bind' ? [i] : []))
  return own.some(({ command }) =>
    named.every((i) => {
      const [word, ownWord] = [statement.command.words[i], command.words[i]]
      return word === undefined || ownWord === undefined || word === ownWord || !agreeUpTo(statement, own, i)
    }),
  )
}

/** Whether the words before a place are those of some statement of an entry: only there a name means the same. */
function agreeUpTo(statement: Statement, own: readonly Statement[], place: number): boolean {
  return own.some(({ command }) =>
    command.lowerWords.slice(0, place).every((word, i) => word === statement.command.lowerWords[i]),
  )
}
