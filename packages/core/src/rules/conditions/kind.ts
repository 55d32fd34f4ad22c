/** What every kind of condition says of itself. */
import type { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import type { EstateQuestion } from '../estate-question.ts'

declare const NESTED: unique symbol

/** A condition within a condition, of whatever kind: the registry alone knows all of them. */
export interface NestedCondition {
  readonly [NESTED]: true
}

/** What has to be at hand before a condition can be evaluated. */
export interface Needs {
  /** CEL that it evaluates. */
  readonly expressions: readonly string[]
  /** Names of values that it reads beside those in its expressions. */
  readonly values: readonly string[]
  /** Outputs of commands, beside those of which its expressions read `state`. */
  readonly outputs: boolean
  /** The snapshot that is compared with. */
  readonly before: boolean
  /** What all devices are asked first. */
  readonly questions: readonly EstateQuestion[]
}

export const NEEDS_NOTHING: Needs = { expressions: [], values: [], outputs: false, before: false, questions: [] }

/** What several parts need together. */
export function needsOf(parts: readonly Needs[]): Needs {
  return {
    expressions: parts.flatMap(({ expressions }) => expressions),
    values: parts.flatMap(({ values }) => values),
    outputs: parts.some(({ outputs }) => outputs),
    before: parts.some(({ before }) => before),
    questions: parts.flatMap(({ questions }) => questions),
  }
}

/** One part of a condition that people fill in. */
export interface FormField {
  /** Keys that lead to it. */
  readonly path: readonly string[]
  readonly title: string
  /**
   * `patterns`: one, or several of which one matches · `lines`: a list, also of one · `listing`: one text with its line
   * breaks and indentation
   */
  readonly as: 'text' | 'patterns' | 'lines' | 'listing' | 'number' | 'flag' | 'choice' | 'condition' | 'conditions'
  readonly choices?: readonly string[]
  readonly optional?: true
  readonly hint?: string
}

export interface ConditionForm {
  readonly title: string
  readonly fields: readonly FormField[]
  /** What a new condition begins with. */
  readonly start: unknown
}

/**
 * One kind of condition. The union of all conditions, their JSON Schema, the table in the docs and the form are made of
 * these.
 */
export interface ConditionKind<S extends z.ZodType = z.ZodType> {
  /** The key that tells a condition of this kind from others. */
  readonly key: string
  readonly schema: (nested: z.ZodType<NestedCondition>) => S
  /** What it needs; nothing where left out. */
  readonly needs?: (condition: z.infer<S>, nested: (condition: NestedCondition) => Needs) => Needs
  /** @throws Error that says what is wrong with it */
  readonly compile: (
    condition: z.infer<S>,
    nested: {
      readonly compile: (condition: NestedCondition) => CompiledCondition
      readonly needs: (condition: NestedCondition) => Needs
    },
  ) => CompiledCondition
  /** As a person would say it; patterns stand in ‹…›. */
  readonly words: (condition: z.infer<S>, nested: (condition: NestedCondition) => string) => string
  /** How people fill it in. */
  readonly form: ConditionForm
  /** Its row in the table of the docs: how it is written, and when it holds. */
  readonly docs: { readonly form: string; readonly holds: string }
}

/** A kind as it is written; the types of its parts are those of its schema. */
export function conditionKind<S extends z.ZodType>(kind: ConditionKind<S>): ConditionKind<S> {
  return kind
}

/** Whether nothing that is bound or set elsewhere plays a part in what it answers. */
export function isClosed({ expressions, values, outputs, before, questions }: Needs): boolean {
  return expressions.length === 0 && values.length === 0 && !outputs && !before && questions.length === 0
}
