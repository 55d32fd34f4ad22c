import { NO_NODES, type ConfigNode } from '../../syntax/located-tree.ts'

/**
 * A hierarchical configuration as a tree of words, in which the braced form and its set lines are the same: every word
 * of a path is a node, and every node knows the statements that put it there.
 */
export class PathNode {
  /** Made with the first child: most nodes are the end of a path. */
  #children: Map<string, PathNode> | null = null
  /** The statements whose path ends here: only these make it a path of its own when it has children too. */
  ends: readonly ConfigNode[] = NO_NODES
  inactive = false
  /** Whether groups are applied here or further in. */
  namesGroups = false
  /** How many words lead here. */
  readonly depth: number
  #wildcards: readonly PathNode[] | null = null

  constructor(
    readonly word: string,
    readonly parent: PathNode | null,
  ) {
    this.depth = parent ? parent.depth + 1 : 0
  }

  /** Children that stand for every name that matches theirs (`<*>`, in groups). */
  get wildcards(): readonly PathNode[] {
    this.#wildcards ??= [...this.children.values()].filter(({ word }) => isWildcard(word))
    return this.#wildcards
  }

  /** In the order in which they were first named. */
  get children(): ReadonlyMap<string, PathNode> {
    return this.#children ?? NO_CHILDREN
  }

  child(word: string): PathNode {
    return this.#children?.get(word) ?? this.put(new PathNode(word, this))
  }

  put(child: PathNode): PathNode {
    this.#children ??= new Map()
    this.#children.set(child.word, child)
    this.#wildcards = null
    return child
  }

  remove(word: string): void {
    this.#children?.delete(word)
    this.#wildcards = null
  }

  clear(): void {
    this.#children = null
    this.#wildcards = null
  }

  /** The same beneath a parent, with all beneath it; where it is renamed, the statement that does so names it too. */
  clone(word: string, parent: PathNode | null, statement: ConfigNode | null = null): PathNode {
    const made = new PathNode(word, parent)
    made.ends = this.ends === NO_NODES ? this.ends : [...this.ends, ...(statement ? [statement] : [])]
    made.inactive = this.inactive
    made.namesGroups = this.namesGroups
    for (const child of this.children.values()) made.put(child.clone(child.word, made))
    return made
  }
}

export function isWildcard(word: string): boolean {
  return word.length > 2 && word.startsWith('<') && word.endsWith('>')
}

/** The words that lead to a node. */
export function pathOf(node: PathNode): string[] {
  const words: string[] = []
  for (let at = node; at.parent; at = at.parent) words.push(at.word)
  return words.reverse()
}

const NO_CHILDREN: ReadonlyMap<string, PathNode> = new Map()

/** Deeper paths than any device has; hostile input goes no deeper. */
export const MAX_WORDS = 128

/**
 * Words after which one value can stand: a later one takes the place of an earlier one. From memory and common
 * practice; what is not listed collects.
 */
const SINGLE = new Set(
  `host-name domain-name time-zone description mtu encrypted-password plain-text-password class uid full-name message
  announcement idle-timeout max-sessions-per-connection connection-limit rate-limit root-login
  contact location authentication-type authentication-key hold-time local-as peer-as router-id autonomous-system metric
  preference vlan-id native-vlan-id interface-mode port-mode speed duplex link-mode next-table retry-options
  tries-before-disconnect backoff-threshold backoff-factor lockout-period minimum-time maximum-time port timeout retry
  source-address-filter version level client-list-name authorization primary-server encapsulation ttl key
  dead-peer-detection dh-group authentication-algorithm encryption-algorithm lifetime-seconds mode pre-shared-key
  l3-interface bandwidth hello-interval dead-interval priority interface-type`.split(/\s+/),
)

/** Whether a word is followed by one value, not by several or by a block. */
export function holdsOneValue({ word, children }: PathNode): boolean {
  return SINGLE.has(word) && ![...children.values()].some((child) => child.children.size > 0)
}

/** What a path replaces: of a word with one value all but the value, else the whole. */
export function keyOfPath(words: readonly string[]): readonly string[] {
  return SINGLE.has(words.at(-2) ?? '') ? words.slice(0, -1) : words
}

/** Adds a path beneath a node; returns its last node. Of a value that stands alone, the earlier one is taken out. */
export function addPath(from: PathNode, words: readonly string[], statement: ConfigNode): PathNode {
  let node = from
  const last = Math.min(words.length, MAX_WORDS - from.depth)
  for (let i = 0; i < last; i++) {
    const word = words[i] ?? ''
    if (i === words.length - 1 && !node.children.has(word) && holdsOneValue(node)) node.clear()
    if (word === 'apply-groups' || word === 'apply-groups-except')
      for (let at: PathNode | null = node; at && !at.namesGroups; at = at.parent) at.namesGroups = true
    node = node.child(word)
  }
  if (node.ends === NO_NODES) node.ends = [statement]
  else (node.ends as ConfigNode[]).push(statement)
  return node
}

/** The node at a path, if there is one. */
export function nodeAt(root: PathNode, words: readonly string[]): PathNode | null {
  let node: PathNode | undefined = root
  for (const word of words) {
    node = node.children.get(word)
    if (!node) return null
  }
  return node
}

/** Takes out a path and all beneath it; emptied parents that no statement names go with it. */
export function removePath(root: PathNode, words: readonly string[]): boolean {
  let node = words.length === 0 ? null : nodeAt(root, words)
  if (!node) return false
  while (node.parent) {
    const parent: PathNode = node.parent
    parent.remove(node.word)
    if (parent.children.size > 0 || parent.ends.length > 0) break
    node = parent
  }
  return true
}
