/**
 * Scopes as a form: conditions on attributes of devices, all of which or any of which hold. A scope is CEL text; what
 * the form writes it also reads, and what it cannot read stays text.
 */

/** What a condition asks of an attribute. */
export const OPERATORS = ['is', 'is-not', 'one-of', 'starts', 'contains', 'has', 'has-not'] as const
export type Operator = (typeof OPERATORS)[number]

export interface ScopeTerm {
  /** Name of a fact of the device, or `labels.NAME`. */
  readonly attribute: string
  readonly operator: Operator
  /** Several for `one-of`; else one. */
  readonly values: readonly string[]
}

export interface ScopeForm {
  readonly join: '&&' | '||'
  readonly terms: readonly ScopeTerm[]
}

/** Attributes that hold one text, those that hold a list, and those that hold a number. */
const TEXTS = ['name', 'site', 'role', 'model', 'os', 'version', 'dialect', 'approved'] as const
const LISTS = ['sites', 'groups'] as const
const NUMBERS = ['changedDays'] as const
export const ATTRIBUTES = [...TEXTS, ...LISTS] as const

export function operatorsOf(attribute: string): readonly Operator[] {
  if (LISTS.some((one) => one === attribute)) return ['has', 'has-not']
  return ['is', 'is-not', 'one-of', 'starts', 'contains']
}

/** Labels may hold yes or no, or a number: these stand without quotes. */
const isBare = (attribute: string, value: string): boolean =>
  (attribute.startsWith('labels.') || NUMBERS.some((one) => one === attribute)) &&
  /^(?:true|false|-?\d+(?:\.\d+)?)$/.test(value)

const quoted = (attribute: string, value: string): string => (isBare(attribute, value) ? value : JSON.stringify(value))

function written({ attribute, operator, values }: ScopeTerm): string {
  const left = `device.${attribute}`
  const value = quoted(attribute, values[0] ?? '')
  switch (operator) {
    case 'is':
      return `${left} == ${value}`
    case 'is-not':
      return `${left} != ${value}`
    case 'one-of':
      return `${left} in [${values.map((one) => quoted(attribute, one)).join(', ')}]`
    case 'starts':
      return `${left}.startsWith(${JSON.stringify(values[0] ?? '')})`
    case 'contains':
      return `${left}.contains(${JSON.stringify(values[0] ?? '')})`
    case 'has':
      return `${value} in ${left}`
    case 'has-not':
      return `!(${value} in ${left})`
  }
}

/** The text of a form; empty where no condition is whole. */
export function writeScope({ join, terms }: ScopeForm): string {
  return terms.filter(isWhole).map(written).join(` ${join} `)
}

export const isWhole = ({ attribute, values }: ScopeTerm): boolean =>
  /^(?:[A-Za-z]\w*|labels\.[a-z]\w*)$/.test(attribute) && values.length > 0 && values.every((one) => one.trim() !== '')

const STRING = String.raw`"(?:[^"\\]|\\.)*"`
const VALUE = String.raw`(?:${STRING}|true|false|-?\d+(?:\.\d+)?)`
const ATTRIBUTE = String.raw`device\.((?:labels\.)?[A-Za-z]\w*)`
const FORMS: readonly (readonly [RegExp, Operator, 'attribute' | 'value'])[] = [
  [new RegExp(`^${ATTRIBUTE} == (${VALUE})$`), 'is', 'attribute'],
  [new RegExp(`^${ATTRIBUTE} != (${VALUE})$`), 'is-not', 'attribute'],
  [new RegExp(String.raw`^${ATTRIBUTE}\.startsWith\((${STRING})\)$`), 'starts', 'attribute'],
  [new RegExp(String.raw`^${ATTRIBUTE}\.contains\((${STRING})\)$`), 'contains', 'attribute'],
  [new RegExp(`^(${STRING}) in ${ATTRIBUTE}$`), 'has', 'value'],
  [new RegExp(String.raw`^!\((${STRING}) in ${ATTRIBUTE}\)$`), 'has-not', 'value'],
]
const ONE_OF = new RegExp(String.raw`^${ATTRIBUTE} in \[(.*)\]$`)

/** A scope as a form; null where the form cannot show it. */
export function readScope(text: string): ScopeForm | null {
  const source = text.trim()
  if (source === '') return { join: '&&', terms: [] }
  const parts = splitOutsideQuotes(source, ['&&', '||'])
  if (parts === null) return null
  const terms = parts.texts.map(termOf)
  return terms.every((term) => term !== null) ? { join: parts.join, terms } : null
}

function termOf(text: string): ScopeTerm | null {
  for (const [pattern, operator, first] of FORMS) {
    const found = pattern.exec(text)
    if (!found) continue
    const [attribute = '', value = ''] = first === 'attribute' ? [found[1], found[2]] : [found[2], found[1]]
    return { attribute, operator, values: [unquoted(value)] }
  }
  const found = ONE_OF.exec(text)
  const list = found && splitOutsideQuotes(found[2] ?? '', [','])
  if (!found || !list || !list.texts.every((one) => new RegExp(`^${VALUE}$`).test(one))) return null
  return { attribute: found[1] ?? '', operator: 'one-of', values: list.texts.map(unquoted) }
}

const unquoted = (value: string): string => (value.startsWith('"') ? (JSON.parse(value) as string) : value)

/** Parts between operators of one kind that stand in no quotes; null where several kinds stand there. */
function splitOutsideQuotes(
  text: string,
  operators: readonly string[],
): { readonly join: '&&' | '||'; readonly texts: readonly string[] } | null {
  const texts: string[] = []
  let join: string | null = null
  let from = 0
  let isQuoted = false
  for (let at = 0; at < text.length; at++) {
    if (text[at] === '\\' && isQuoted) at++
    else if (text[at] === '"') isQuoted = !isQuoted
    else if (!isQuoted) {
      const operator = operators.find((one) => text.startsWith(one, at))
      if (operator === undefined) continue
      if (join !== null && join !== operator) return null
      join = operator
      texts.push(text.slice(from, at).trim())
      from = at + operator.length
      at = from - 1
    }
  }
  texts.push(text.slice(from).trim())
  return { join: join === '||' ? '||' : '&&', texts }
}
