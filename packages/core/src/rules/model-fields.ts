/** Fields of the device model that expressions name: their values, and the lines that state them. */
import { originOf, type Bindings, type Origin, type Origins } from '../model/index.ts'
import { searched, type CitedRange } from './evidence.ts'
import { compileExpression, fieldsIn } from './expression.ts'
import { placesOfState } from './state-fields.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'
import { MODEL_ROOTS, namesWithin } from './names.ts'

/**
 * A CEL expression over the device model. It rests on the lines of the fields it names.
 * `origin("system.banners.login")` is where a value is from: `line`, `default` or `absent`. @throws Error as
 * `compileExpression`
 */
export function compileModelExpression(source: string): (context: EvaluationContext) => unknown {
  const asked: string[] = []
  const expression = compileExpression(
    source.replace(/\borigin\(\s*"([\w.[\]]+)"\s*\)/g, (_, path: string) => `origin_of[${asked.push(path) - 1}]`),
  )
  if (asked.length === 0) return (context) => expression.evaluate(context.names)
  return (context) => {
    const { origins } = context.device.modelled()
    const own = asked.map(
      (path) => pathOf(path, context.paths).map((at) => origins.get(at)?.kind ?? 'absent')[0] ?? 'absent',
    )
    return expression.evaluate(namesWithin(context.names, { origin_of: own }))
  }
}

/**
 * The same for the entries of a list, each known by a name; null where it asks where a value is from, for which the
 * path of the entry is needed.
 */
export function compileEntryExpression(
  source: string,
  entry: string,
): ((names: Bindings, value: unknown) => unknown) | null {
  return ORIGIN.test(source) ? null : compileExpression(source).evaluateFor(entry)
}

const ORIGIN = /\borigin\(/

const STATE = 'state.'

/** The lines that the fields of an expression are from, else the whole that was searched. */
export function placesOfFields(source: string): (context: EvaluationContext) => CitedRange[] {
  const fields = fieldsIn(source)
  const stated = fields.filter((field) => field.startsWith(STATE)).map((field) => field.slice(STATE.length))
  return ({ device, paths }) => {
    const places: CitedRange[] = []
    for (const field of fields) {
      for (const path of pathOf(field, paths)) if (/[.[]/.test(path)) places.push(...placesOf(device, path))
    }
    for (const field of stated) places.push(...placesOfState(device, field))
    return places.length > 0 ? places : wholeOf(device)
  }
}

/**
 * The parts of the model that an expression reads, as paths: `interfaces.exists(i, i.mtu > 0)` reads `interfaces.mtu`.
 */
export function pathsIn(source: string, names: Pick<EvaluationContext, 'paths'>): readonly string[] {
  return pathsOfExpression(source)(names)
}

/** The same for many entries: what an expression reads is found out once. */
export function pathsOfExpression(source: string): (names: Pick<EvaluationContext, 'paths'>) => readonly string[] {
  const fields = fieldsIn(source)
  const variables = new Map([...source.matchAll(GOES_THROUGH)].map(([, list = '', variable = '']) => [variable, list]))
  const whole = (field: string): string => {
    const [root = '', ...rest] = field.split('.')
    const list = variables.get(root)
    return list === undefined ? field : [whole(list), ...rest].join('.')
  }
  const listOf = (field: string): string | undefined => variables.get(rootOf(field))
  const gone = new Set(fields.flatMap((field) => (field.includes('.') ? (listOf(field) ?? []) : [])))
  const read = fields.filter((field) => !gone.has(field)).map(whole)
  return ({ paths }) => read.flatMap((field) => pathOf(field, paths))
}

/** A list, and the name of its entries within. */
const GOES_THROUGH = /(?<![\w.])([a-zA-Z_][\w.]*)\.(?:exists|exists_one|all|filter|map)\(\s*([a-zA-Z_]\w*)\s*,/g

const ROOTS: ReadonlySet<string> = new Set(MODEL_ROOTS)

/** The path of a field in the model; none where the name is no part of it. */
export function pathOf(field: string, paths: Readonly<Record<string, string>>): string[] {
  const root = rootOf(field)
  const bound = paths[root]
  if (bound !== undefined) return [bound + field.slice(root.length)]
  return ROOTS.has(root) ? [field] : []
}

function rootOf(field: string): string {
  const end = field.indexOf('.')
  return end < 0 ? field : field.slice(0, end)
}

/** The values at a path of the model, each with its own path: `interfaces.mtu` gives `interfaces[0].mtu` and so on. */
export function valuesAt(model: unknown, path: string): [path: string, value: unknown][] {
  let found: [string, unknown][] = [['', model]]
  for (const part of path.split('.')) {
    found = found.flatMap(([at, value]): [string, unknown][] => {
      const [name = '', index] = part.split('[')
      if (typeof value !== 'object' || value === null) return []
      const under = (value as Readonly<Record<string, unknown>>)[name]
      const own = at === '' ? name : `${at}.${name}`
      if (!Array.isArray(under)) return under === undefined ? [] : [[own, under]]
      return under.flatMap((entry, i): [string, unknown][] =>
        index === undefined || Number.parseInt(index, 10) === i ? [[`${own}[${i}]`, entry]] : [],
      )
    })
  }
  return found
}

/**
 * The lines that a part of the model is from: its own, those of its entries, else those of what it stands in.
 * @param ownOnly not those of what it stands in
 */
export function placesOf(device: JudgedDevice, path: string, ownOnly = false): CitedRange[] {
  const { origins } = device.modelled()
  const own = (ownOnly ? LINES_WITHIN : LINES_AT).of(origins).get(path)
  if (own !== undefined) return own.flatMap(placesOfOrigin)
  const around = ownOnly ? null : originOf(origins, path)
  return around?.kind === 'line' ? placesOfOrigin(around) : []
}

type LineOrigin = Extract<Origin, { kind: 'line' }>

function placesOfOrigin({ record, lines }: LineOrigin): CitedRange[] {
  return lines.map(({ from, to, columns }): CitedRange =>
    columns ? { record, from, to, absent: false, columns } : { record, from, to, absent: false },
  )
}

/** Origins that are lines, by all the paths under which they are asked for; put in order once for each device. */
class LinesByPath {
  readonly #known = new WeakMap<Origins, ReadonlyMap<string, readonly LineOrigin[]>>()

  constructor(readonly pathsOf: (path: string) => readonly string[]) {}

  of(origins: Origins): ReadonlyMap<string, readonly LineOrigin[]> {
    let known = this.#known.get(origins)
    if (!known) this.#known.set(origins, (known = this.#inOrder(origins)))
    return known
  }

  #inOrder(origins: Origins): ReadonlyMap<string, readonly LineOrigin[]> {
    const byPath = new Map<string, LineOrigin[]>()
    for (const [at, origin] of origins) {
      if (origin.kind !== 'line') continue
      for (const path of this.pathsOf(at)) {
        const under = byPath.get(path)
        if (under) under.push(origin)
        else byPath.set(path, [origin])
      }
    }
    return byPath
  }
}

/** Its own path; that of an entry also the list's: `servers[0]` is among `servers`. */
function listsOf(path: string): string[] {
  const all = [path]
  for (let at = path; at.endsWith(']');) all.push((at = at.slice(0, at.lastIndexOf('['))))
  return all
}

/** The same, and what it lies in, as far as that is no entry of a list. */
function partsOf(path: string): string[] {
  const all = listsOf(path)
  for (let end = path.lastIndexOf('.'); end > 0; end = path.lastIndexOf('.', end - 1))
    if (path[end - 1] !== ']') all.push(path.slice(0, end))
  return all
}

const LINES_AT = new LinesByPath(listsOf)
const LINES_WITHIN = new LinesByPath(partsOf)

export function wholeOf(device: JudgedDevice): CitedRange[] {
  return searched(device.record, device.effective.tree, [])
}
