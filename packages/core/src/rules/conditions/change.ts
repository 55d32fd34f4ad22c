import { z } from 'zod'
import { KINDS_OF_STATE } from '../../state/index.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { unreadAbout } from '../doubt.ts'
import { Finding } from '../evidence.ts'
import { compileExpression, fieldsIn } from '../expression.ts'
import type { JudgedDevice } from '../judged.ts'
import { pathsIn, placesOfFields } from '../model-fields.ts'
import { namesOf } from '../names.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const CHANGES = ['unchanged', 'appeared', 'vanished', 'grew', 'kept', 'within'] as const

/** `of` is CEL, evaluated in both snapshots: a number, a text, a truth value or a list. */
const changeSchema = z.strictObject({
  of: z.string().min(1),
  is: z.enum(CHANGES),
  by: z.number().min(0).optional(),
  percent: z.number().min(0).optional(),
})
type ChangeQuestion = z.infer<typeof changeSchema>

/**
 * A value at A and at B. Lists are compared as sets: what is gone is `missing`, what is new is `extra`. Both values are
 * bound as `before` and `after`. Without a snapshot to compare with, nothing is known.
 * - `unchanged`: equal · `appeared`, `vanished`: something is new, something is gone
 * - `grew`: more than before · `kept`: not less · `within`: apart by at most `by`, or `percent` of what it was
 */
export const change = conditionKind({
  key: 'change',
  schema: () => z.strictObject({ change: changeSchema }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: [condition.change.of], before: true }),
  compile: (condition) => compileChange(condition.change),
  words: (condition) => changeWords(condition.change),
  form: {
    title: 'since the snapshot before',
    fields: [
      { path: ['change', 'of'], title: 'Value', as: 'text' },
      { path: ['change', 'is'], title: 'is', as: 'choice', choices: CHANGES },
      { path: ['change', 'by'], title: 'within', as: 'number', optional: true },
      { path: ['change', 'percent'], title: 'within, %', as: 'number', optional: true },
    ],
    start: { change: { of: 'system.hostname', is: 'unchanged' } },
  },
  docs: {
    form: '`{ change: { of: CEL, is: unchanged | appeared | vanished | grew | kept | within, by, percent } }`',
    holds: 'now and in the snapshot before; binds `before`, `after`',
  },
})

function changeWords({ of, is, by, percent }: ChangeQuestion): string {
  switch (is) {
    case 'unchanged':
      return `${of} is what it was`
    case 'appeared':
      return `something new is in ${of}`
    case 'vanished':
      return `something is gone from ${of}`
    case 'grew':
      return `${of} grew`
    case 'kept':
      return `${of} did not shrink`
    case 'within':
      return `${of} is within ${percent === undefined ? (by ?? 0) : `${percent} %`} of what it was`
  }
}

function compileChange({ of, is, by, percent }: ChangeQuestion): CompiledCondition {
  const expression = compileExpression(of)
  if (is === 'within' && by === undefined && percent === undefined)
    throw new Error('Condition "change": "within" asks for "by" or "percent"')
  const places = placesOfFields(of)
  const parts = [
    ...new Set(
      fieldsIn(of)
        .filter((field) => field.startsWith('state.'))
        .map((field) => field.split('.')[1] ?? ''),
    ),
  ]
  return (context) => {
    const { before } = context.device
    if (!before)
      return new Finding('unknown', () => context.whole(), {
        why: 'there is no earlier snapshot of this device to compare with',
      })
    const why = missingOutput(parts, context.device, 'now') ?? missingOutput(parts, before, 'before')
    if (why !== null) return new Finding('unknown', () => context.whole(), { why })
    const values = Object.getPrototypeOf(Object.getPrototypeOf(context.names) as object) as Readonly<
      Record<string, unknown>
    >
    const [was, now] = [
      plain(expression.evaluate(namesOf(before, values, context.own))),
      plain(expression.evaluate(context.names)),
    ]
    const [gone, fresh] = [difference(was, now), difference(now, was)]
    context.bind({ before: said(was), after: said(now), gone, fresh })
    const holds = answer(is, was, now, gone, fresh, by, percent)
    return new Finding(
      holds,
      () => places(context),
      { missing: gone, extra: fresh },
      unreadAbout(context.device, pathsIn(of, context)),
    )
  }
}

/**
 * Why a part of the state of a device is not known: nothing that tells of it was captured, or not in a form that is
 * read.
 */
function missingOutput(parts: readonly string[], device: JudgedDevice, when: string): string | null {
  const outputs = device.outputs()
  for (const part of parts) {
    const kinds = KINDS_OF_STATE[part] ?? []
    if (kinds.length > 0 && !outputs.some(({ kind, recognised }) => recognised && kinds.includes(kind)))
      return `${when}, no output "${kinds.join('" or "')}" was captured that could be read`
  }
  return null
}

function answer(
  is: ChangeQuestion['is'],
  was: unknown,
  now: unknown,
  gone: readonly string[],
  fresh: readonly string[],
  by = 0,
  percent?: number,
): boolean {
  switch (is) {
    case 'unchanged':
      return gone.length === 0 && fresh.length === 0
    case 'appeared':
      return fresh.length > 0
    case 'vanished':
      return gone.length > 0
    case 'grew':
      return sizeOf(now) > sizeOf(was)
    case 'kept':
      return sizeOf(now) >= sizeOf(was)
    case 'within':
      return (
        Math.abs(sizeOf(now) - sizeOf(was)) <= (percent === undefined ? by : (Math.abs(sizeOf(was)) * percent) / 100)
      )
  }
}

/** CEL's whole numbers as plain ones. */
function plain(value: unknown): unknown {
  if (typeof value === 'bigint') return Number(value)
  return Array.isArray(value) ? value.map(plain) : value
}

function sizeOf(value: unknown): number {
  if (Array.isArray(value)) return value.length
  if (typeof value === 'number') return value
  throw new Error(`${said(value)} is neither a number nor a list: it has no size to compare`)
}

function difference(a: unknown, b: unknown): string[] {
  const other = new Set(elementsOf(b))
  return elementsOf(a).filter((element) => !other.has(element))
}

function elementsOf(value: unknown): string[] {
  if (value === null || value === undefined) return []
  return (Array.isArray(value) ? value : [value]).map(said)
}

function said(value: unknown): string {
  if (Array.isArray(value)) return value.map(said).join(', ')
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value)
}
