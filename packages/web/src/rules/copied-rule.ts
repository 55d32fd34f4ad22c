import type { BenchmarkView } from '@jurybox/api/benchmarks'
import type { DraftRule } from '@jurybox/core/authoring'

/** Values that kinds of conditions read without naming them. */
const IMPLIED: Readonly<Record<string, readonly string[]>> = {
  outside: ['outside_zones', 'outside_match'],
  opens: ['management_sources'],
}

/**
 * A rule of a benchmark as a draft for one's own, with the values that it asks for as they are set here. What the rule
 * leaves to its defaults is left out, so that the text stays short.
 */
export function copiedRule({ rules, values }: Pick<BenchmarkView, 'rules' | 'values'>, id: string): DraftRule | null {
  const found = rules.find((rule) => rule.id === id)
  if (!found) return null
  const { selected: _, ...rule } = found
  const text = JSON.stringify(rule)
  const asks = (name: string): boolean => new RegExp(String.raw`\b${name}\b`).test(text)
  const implied = Object.entries(IMPLIED).flatMap(([kind, names]) => (text.includes(`"${kind}":`) ? names : []))
  const asked = values.filter(({ name }) => asks(name) || implied.includes(name))
  return {
    rule: short(rule) as DraftRule['rule'],
    values: Object.fromEntries(
      asked.map(({ name, set, default: usual, ...value }) => {
        const is = set ?? usual
        return [name, { ...short(value), ...(is === null ? {} : { default: is }) }]
      }),
    ) as DraftRule['values'],
  }
}

/** An object without what is not set, and without empty lists. */
function short(of: object): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(of).filter(
      ([, value]) => value !== undefined && value !== null && !(Array.isArray(value) && value.length === 0),
    ),
  )
}
