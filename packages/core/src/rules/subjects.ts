/** What a rule judges: the device, each block, each group of lines, or each entry of the model. */
import { Scope, type ConfigNode, type Statement } from '../syntax/index.ts'
import { blocksAlong, doubtsAlong } from './blocks.ts'
import type { CompiledCondition } from './compiled-condition.ts'
import { compileCondition, type Condition } from './conditions.ts'
import { isUnderstood, unreadAbout, unreadLike } from './doubt.ts'
import { EvaluationContext } from './evaluation-context.ts'
import { MAX_PLACES, tidy, type CitedRange, type Finding } from './evidence.ts'
import type { Names } from './judged.ts'
import { LineMatcher } from './line-matcher.ts'
import { compileEntryExpression, compileModelExpression, pathsIn } from './model-fields.ts'
import type { RuleBody } from './schema.ts'

/** Unread lines that may be subjects of which nobody knows. */
export type Unseen = (context: EvaluationContext) => readonly CitedRange[]

export interface Subject {
  readonly name: string
  readonly context: EvaluationContext
  /** The lines that it is made of; none where the device itself is judged. */
  readonly nodes: readonly ConfigNode[]
  /** Path of the entry of the model that it is, if it is one. */
  readonly path?: string
  /** Set where it is not known whether the rule speaks of it: what that rests on. */
  readonly doubt?: Finding
}

export function compileSubjects(source: RuleBody): (context: EvaluationContext) => Subject[] {
  const { each } = source
  if (!each) return (context) => [{ name: '', context, nodes: [] }]
  if ('block' in each) {
    const lines = new LineMatcher([each.block].flat())
    const along = blocksAlong([each.in ?? []].flat())
    const where = each.where === undefined ? null : compileCondition(each.where)
    return (context) => {
      const subjects: Subject[] = []
      for (const around of along(context)) {
        for (const { statement, names } of lines.all(around)) {
          if (!statement.scope) continue
          const own = new EvaluationContext(context.device, statement.scope, around.names, {
            ...names,
            block: statement.text,
          })
          const meant = where?.(own)
          if (meant?.truth === false) continue
          subjects.push({ name: statement.text, context: own, nodes: statement.nodes, ...doubtOf(meant) })
        }
      }
      return subjects
    }
  }
  if ('model' in each) return modelSubjects(each)
  const lines = new LineMatcher([each.lines].flat())
  return (context) => {
    const groups = new Map<string, Statement[]>()
    for (const { statement, names } of lines.all(context)) {
      const key = String(names[each.by])
      groups.set(key, [...(groups.get(key) ?? []), statement])
    }
    return [...groups].map(([key, statements]) => {
      const nodes = statements.flatMap((statement) => statement.nodes)
      const scope = new Scope(statements, nodes)
      return {
        name: `${each.by} ${key}`,
        context: new EvaluationContext(context.device, scope, context.names, { [each.by]: key }),
        nodes,
      }
    })
  }
}

function doubtOf(meant: Finding | undefined): { doubt?: Finding } {
  return meant?.truth === 'unknown' ? { doubt: meant } : {}
}

/** Unread lines that may be, or belong to, subjects that nobody knows of. */
export function compileUnseen(body: RuleBody): Unseen {
  const look = lookForUnseen(body)
  return (context) => (isUnderstood(context.device) ? [] : look(context))
}

function lookForUnseen({ each }: RuleBody): Unseen {
  if (!each) return () => []
  if ('model' in each) {
    const paths = [
      each.model,
      ...(each.where === undefined ? [] : pathsIn(each.where, { paths: { [each.as]: each.model } })),
    ]
    return (context) => tidy(unreadAbout(context.device, paths)(), MAX_PLACES)
  }
  if ('block' in each) {
    const along = doubtsAlong([each.in ?? [], each.block].flat())
    const where = each.where === undefined ? null : compileCondition(each.where)
    const lines = new LineMatcher([each.block].flat())
    const around = blocksAlong([each.in ?? []].flat())
    return (context) => {
      // A block that was left out may be one after all.
      const left =
        where === null
          ? []
          : around(context).flatMap((at) =>
              lines
                .all(at)
                .flatMap(({ statement, names }) =>
                  statement.scope
                    ? [
                        where(
                          new EvaluationContext(context.device, statement.scope, at.names, {
                            ...names,
                            block: statement.text,
                          }),
                        ),
                      ]
                    : [],
                ),
            )
      return tidy(
        [...along(context).doubts(), ...left.flatMap((finding) => (finding.truth === false ? finding.doubts() : []))],
        MAX_PLACES,
      )
    }
  }
  const patterns = new LineMatcher([each.lines].flat()).patterns
  return (context) => tidy(unreadLike(context, patterns)(), MAX_PLACES)
}

function modelSubjects(each: {
  model: string
  as: string
  name: string
  where?: string | undefined
  having?: Condition | undefined
}): (context: EvaluationContext) => Subject[] {
  const nameOf = compileModelExpression(each.name)
  const isMeant = each.where === undefined ? null : compileEntryExpression(each.where, each.as)
  const where = each.where === undefined || isMeant ? null : compileModelExpression(each.where)
  const having = each.having === undefined ? null : compileCondition(each.having)
  /** Of a record that is not whole: lines that are missing may make an entry a subject, or none. */
  let whereUnsure: CompiledCondition | null = null
  return (context) => {
    const isWhole = context.device.effective.tree.faults.length === 0
    // Made when first needed: most records are whole.
    if (!isWhole && each.where !== undefined) whereUnsure ??= compileCondition({ model: each.where })
    return entriesAt(context.names, each.model).flatMap(({ entry, path }): Subject[] => {
      if (isWhole && isMeant && isMeant(context.names, entry) !== true) return []
      const own = new EvaluationContext(
        context.device,
        context.scope,
        context.names,
        { [each.as]: entry },
        { [each.as]: path },
      )
      if (isWhole && where && where(own) !== true) return []
      const meant = [isWhole ? undefined : whereUnsure?.(own), having?.(own)]
      if (meant.some((finding) => finding?.truth === false)) return []
      const name = String(nameOf(own))
      own.names['block'] = name
      return [
        { name, context: own, nodes: [], path, ...doubtOf(meant.find((finding) => finding?.truth === 'unknown')) },
      ]
    })
  }
}

/** The entries of a list of the model; of a list within a list, those of all its entries. */
function entriesAt(names: Names, model: string): { readonly entry: unknown; readonly path: string }[] {
  let places: { entry: unknown; path: string }[] = [{ entry: names, path: '' }]
  for (const step of model.split('.')) {
    places = places.flatMap(({ entry, path }) => {
      const value: unknown = (entry as Readonly<Record<string, unknown>>)[step]
      const at = path === '' ? step : `${path}.${step}`
      return Array.isArray(value)
        ? value.map((one: unknown, i) => ({ entry: one, path: `${at}[${i}]` }))
        : [{ entry: value, path: at }]
    })
  }
  if (places.some(({ path }) => !path.endsWith(']'))) throw new Error(`${model} is no list of the device model`)
  return places
}
