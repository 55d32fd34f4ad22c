/** YAML from outside: bounded before it is parsed, and parsed in time that grows with its length. */
import { LineCounter, isNode, YAMLParseError, isScalar, parseDocument, visit, type Document } from 'yaml'
import { z } from 'zod'
import { beyondLimits } from './bounds.ts'

export const YAML_LIMITS = {
  characters: 2_000_000,
  /** Places where one thing is written by the name of another. */
  aliases: 50,
} as const

/**
 * The document of a YAML text. Keys that stand twice are looked for here: the parser compares each with each.
 * @throws Error that says what is wrong
 */
export function readYamlDocument(text: string, lineCounter = new LineCounter()): Document {
  const beyond =
    text.length > YAML_LIMITS.characters ? `it is longer than ${YAML_LIMITS.characters} characters` : beyondLimits(text)
  if (beyond !== null) throw new Error(`not read: ${beyond}`)
  const document = parseDocument(text, { uniqueKeys: false, lineCounter })
  if (document.errors[0]) throw document.errors[0]
  visit(document, {
    Map: (_, map) => {
      const seen = new Set<unknown>()
      for (const { key } of map.items) {
        const value = isScalar(key) ? key.value : key
        const at = isNode(key) && key.range ? ` at line ${lineCounter.linePos(key.range[0]).line}` : ''
        if (seen.has(value)) throw new Error(`the key ${cut(String(value))} is duplicated in one map${at}`)
        seen.add(value)
      }
    },
  })
  return document
}

/** The data of a YAML text, and where each part of it stands. */
export interface LocatedYaml {
  readonly data: unknown
  /** The line of the innermost part of a path that is there, counted from 1. */
  readonly lineAt: (path: readonly PropertyKey[]) => number
}

/** @throws Error as `readYamlDocument` */
export function readLocatedYaml(text: string): LocatedYaml {
  const counter = new LineCounter()
  const document = readYamlDocument(text, counter)
  return {
    data: document.toJS({ maxAliasCount: YAML_LIMITS.aliases }),
    lineAt: (path) => {
      for (let depth = path.length; depth > 0; depth--) {
        const node = document.getIn(path.slice(0, depth), true)
        if (isNode(node) && node.range) return counter.linePos(node.range[0]).line
      }
      return 1
    },
  }
}

/** The data of a YAML text. @throws Error as `readYamlDocument` */
export function readYaml(text: string): unknown {
  return readLocatedYaml(text).data
}

/** The line that a parser of YAML complains of, counted from 1, where it names one. */
export function lineOfError(error: unknown): number | undefined {
  return error instanceof YAMLParseError ? error.linePos?.[0].line : undefined
}

/** First line of what a parser says. */
export function firstLineOf(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split('\n', 1)[0] ?? ''
}

const FAULTS_TOLD = 8
const FAULT_CHARACTERS = 300

/** What does not fit a schema, and where, in one line of bounded length: names come from outside, of any length. */
export function schemaFault(error: z.ZodError): string {
  const issues = error.issues.flatMap(nearest)
  const told = issues.slice(0, FAULTS_TOLD).map((issue) => {
    const lines = z.prettifyError({ issues: [shortened(issue)] } as unknown as z.ZodError).split('\n')
    return lines.map((line) => line.trim()).join(' ')
  })
  const more = issues.length - told.length
  return more > 0 ? `${told.join(' ')} … and ${more} more` : told.join(' ')
}

/** What a schema says of a union that has no words of its own. */
const NO_WORDS = 'Invalid input'

/** Of something that may have several forms: what is wrong with it in the form that it comes nearest to. */
function nearest(issue: z.core.$ZodIssue): z.core.$ZodIssue[] {
  if (issue.code !== 'invalid_union' || issue.message !== NO_WORDS) return [issue]
  const [best] = [...issue.errors].filter((branch) => branch.length > 0).sort((a, b) => distance(a) - distance(b))
  return best
    ? best.flatMap((inner) => nearest({ ...inner, path: [...issue.path, ...inner.path] } as z.core.$ZodIssue))
    : [issue]
}

/** A form of another kind is farther away than one of which a part is wrong. */
function distance(branch: readonly z.core.$ZodIssue[]): number {
  return branch.reduce((sum, { code, path }) => sum + (code === 'unrecognized_keys' || path.length === 0 ? 10 : 1), 0)
}

function shortened<I extends z.core.$ZodIssue>(issue: I): I {
  return {
    ...issue,
    message: cut(issue.message),
    path: issue.path.slice(0, 20).map((part) => (typeof part === 'string' ? cut(part) : part)),
  }
}

function cut(text: string): string {
  return text.length > FAULT_CHARACTERS ? `${text.slice(0, FAULT_CHARACTERS)}…` : text
}
