import { YAMLSeq, isMap, isSeq, parseDocument, type Document } from 'yaml'
import type { DraftRule } from './draft-rule.ts'

/** Benchmarks as text that people write: edits keep what they do not touch, remarks included. */

const WIDE = { lineWidth: 0 } as const

/** An id as rules have them. */
export function idFrom(title: string): string {
  const id = title
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-$/g, '')
    .slice(0, 60)
  return id === '' ? 'rule' : id
}

/**
 * The text with one part changed.
 * @param path keys and places, as `['rules', 0, 'title']`
 * @param value undefined takes the part away
 * @throws Error where the text is no YAML
 */
export function changedText(text: string, path: readonly (string | number)[], value: unknown): string {
  const document = documentOf(text)
  if (value === undefined) document.deleteIn(path)
  else document.setIn(path, document.createNode(value))
  return document.toString(WIDE)
}

/**
 * The text with a rule at its end and the values that the rule asks for; an id that is taken gets a number, and the
 * rule is of the widest profile.
 * @throws Error where the text is no YAML
 */
export function withRule(text: string, { rule, values }: DraftRule): { readonly text: string; readonly id: string } {
  const document = documentOf(text)
  const rules: unknown = document.get('rules')
  const taken = new Set(isSeq(rules) ? rules.items.map((item) => (isMap(item) ? String(item.get('id')) : '')) : [])
  let id = String(rule['id'])
  for (let n = 2; taken.has(id); n++) id = `${String(rule['id'])}-${n}`
  const profiles: unknown = document.get('profiles')
  const last = isSeq(profiles) ? profiles.items.at(-1) : undefined
  const profile = isMap(last) ? last.get('id') : rule['profile']
  const node = document.createNode({ ...rule, id, profile })
  if (isSeq(rules) && rules.items.length > 0) {
    rules.flow = false
    rules.add(node)
  } else {
    const all = new YAMLSeq()
    all.add(node)
    document.set('rules', all)
  }
  for (const [name, value] of Object.entries(values))
    if (!document.hasIn(['values', name])) document.setIn(['values', name], document.createNode(value, { flow: true }))
  return { text: document.toString(WIDE), id }
}

function documentOf(text: string): Document {
  const document = parseDocument(text)
  if (document.errors[0])
    throw new Error(`The text is not valid YAML: ${document.errors[0].message.split('\n')[0] ?? ''}`)
  return document
}
