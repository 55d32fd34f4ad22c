import { Command } from '../../syntax/command.ts'
import { Scope, Statement } from '../../syntax/scope.ts'
import type { ConfigNode, LocatedTree } from '../../syntax/located-tree.ts'
import type { SeriesPlace, Typing } from '../../syntax/syntax.ts'
import { lineOf, wordsOf } from '../words.ts'

/**
 * A listing as paths of words: elements by their names, entries and members by theirs. `rulebase security rules
 * "allow web" from trust` is what people type behind `set` as well (common practice).
 */
export interface PathStatement {
  readonly words: readonly string[]
  readonly nodes: readonly ConfigNode[]
}

/** Elements in which several values stand side by side. */
const COLLECTING = new Set([
  'member',
  'from',
  'to',
  'source',
  'destination',
  'application',
  'service',
  'category',
  'source-user',
  'static',
  'dynamic',
  'members',
  'interface',
  'layer3',
  'layer2',
  'virtual-wire',
  'tap',
  'permitted-ip',
  'translated-address',
  'encryption',
  'hash',
  'dh-group',
  'authentication',
  'tag',
  'virtual-router',
  'ip',
  'negate',
])

export function pathsOf(trees: readonly LocatedTree[]): PathStatement[] {
  const found: PathStatement[] = []
  for (const tree of trees) for (const node of tree.nodes) collect(node, [], found)
  return withoutFrame(found)
}

function collect(node: ConfigNode, around: readonly string[], found: PathStatement[]): void {
  if (node.kind !== 'command') return
  const { words } = wordsOf(node.text)
  const [element = '', ...rest] = words
  // The names of entries and members stand for them.
  const path = [...around, ...(element === 'entry' || element === 'member' ? rest : words)]
  const children = node.children.filter(({ kind }) => kind === 'command')
  if (children.length === 0) found.push({ words: path, nodes: [node] })
  else for (const child of children) collect(child, path, found)
}

/**
 * What stands around every part: the root, the device as an entry of its own list, and the virtual system where there
 * is one. Of several virtual systems each keeps its name, and is not taken for another.
 */
function withoutFrame(all: readonly PathStatement[]): PathStatement[] {
  const bare = all.map(({ words, nodes }) => ({ words: words[0] === 'config' ? words.slice(1) : words, nodes }))
  const inside = bare.map((one) => (one.words[0] === 'devices' ? { ...one, words: one.words.slice(2) } : one))
  const systems = new Set(inside.flatMap(({ words }) => (words[0] === 'vsys' ? [words[1] ?? ''] : [])))
  return inside.flatMap((one) => {
    if (one.words[0] !== 'vsys' || systems.size > 1) return one.words.length === 0 ? [] : [one]
    return one.words.length <= 2 ? [] : [{ ...one, words: one.words.slice(2) }]
  })
}

/** What a path replaces: all that stands where one value can stand, else the whole. */
export function keyWords(words: readonly string[]): readonly string[] {
  const holder = words.at(-2) ?? ''
  return words.length < 2 || COLLECTING.has(holder) || isEntryPath(words) ? words : words.slice(0, -1)
}

/** Whether the last word is the name of an entry, or of an element that says nothing more. */
function isEntryPath(words: readonly string[]): boolean {
  return /^(?:rules|address|address-group|service-group|zone|users|ethernet|units|virtual-router|static-route)$/.test(
    words.at(-2) ?? '',
  )
}

export function keyOf(text: string): string {
  return lineOf(keyWords(wordsOf(text).words))
}

/** Rules are asked in turn, the first that matches deciding (common practice). */
const SERIES = /^((?:.* )?rulebase (?:security|nat|pbf|decryption|qos) rules) ("(?:[^"\\]|\\.)*"|\S+)/

export function placeIn(text: string): SeriesPlace | null {
  const found = SERIES.exec(text)
  return found ? { series: found[1] ?? '', member: found[2] ?? '' } : null
}

export const typing: Typing = {
  byPath: true,
  add: (text) => `set ${text}`,
  remove: (text) => `delete ${text}`,
  forget: (key) => `delete ${key}`,
}

/** What holds after `set` and `delete` were typed on what a listing says. */
export function typedOn(paths: readonly PathStatement[], nodes: readonly ConfigNode[]): PathStatement[] {
  let held = [...paths]
  for (const node of nodes) {
    const [verb, ...words] = wordsOf(node.text).words
    if (words.length === 0) continue
    if (verb === 'delete') held = held.filter((one) => !words.every((word, i) => one.words[i] === word))
    if (verb !== 'set') continue
    const key = lineOf(keyWords(words))
    const same = held.findIndex((one) => lineOf(one.words) === lineOf(words))
    if (same >= 0) continue
    const replaced = held.findIndex((one) => lineOf(keyWords(one.words)) === key)
    if (replaced >= 0) held[replaced] = { words, nodes: [node] }
    else {
      // An entry that said nothing yet now does.
      held = held.filter((one) => one.words.length >= words.length || !one.words.every((word, i) => words[i] === word))
      held.push({ words, nodes: [node] })
    }
  }
  return held
}

export function scopeOf(paths: readonly PathStatement[], maybeSecret: (text: string) => boolean): Scope {
  return new Scope(
    paths.map(({ words, nodes }) => {
      const text = lineOf(words)
      return new Statement(
        new Command(text, false, false, text, null, maybeSecret(text), words),
        nodes,
        undefined,
        null,
      )
    }),
    [],
  )
}
