import { findingsPlace, type Command, type Scope, type Statement } from '../../../syntax/index.ts'
import type { EntryMatch } from '../../../model/entry-match.ts'
import type { Family } from '../../../model/address.ts'
import { PROTOCOLS } from '../../../model/names.ts'
import type { SourceRange } from '../../../model/writer.ts'
import { EntryReader } from './access-entry.ts'
import { groupsOf, type Groups } from './object-groups.ts'

export interface AccessEntry {
  /** `unknown`: what the line does was not understood. */
  readonly action: 'permit' | 'deny' | 'unknown'
  readonly match: EntryMatch
  /** Words of the entry that the reader cannot weigh (time ranges, options): it may match less than `match` says. */
  readonly notWeighed: readonly string[]
  readonly node: SourceRange
  /** As it stands, without the list's name and its own number. */
  readonly text: string
  readonly sequence: number | null
  /** What the remark before it says. */
  readonly remark: string | null
}

export interface AccessList {
  readonly name: string
  readonly family: Family
  readonly entries: readonly AccessEntry[]
  /** The lines that define it. */
  readonly nodes: readonly SourceRange[]
  /** The statements that were read as parts of it. */
  readonly statements: readonly Statement[]
}

/**
 * Access lists by family and name (`ipv4 MGMT`), numbered and named, in the order in which packets meet their entries.
 */
export type AccessLists = ReadonlyMap<string, AccessList>

const read = new WeakMap<Scope, AccessLists>()

/** Every access list of a device; read once. */
export function accessListsOf(device: Scope): AccessLists {
  let lists = read.get(device)
  if (!lists) read.set(device, (lists = readLists(device)))
  return lists
}

function readLists(device: Scope): AccessLists {
  const lists = new Map<string, GrowingList>()
  const groups = groupsOf(device)
  const listFor = (name: string, family: Family): GrowingList => {
    const key = `${family} ${name}`
    let list = lists.get(key)
    if (!list) lists.set(key, (list = { name, family, entries: [], nodes: [], statements: [], remark: null }))
    return list
  }
  for (const statement of device.startingWith('access-list')) {
    const [, name, ...stated] = statement.command.words
    if (statement.negated || name === undefined) continue
    const words = unnumbered(stated)
    const standard = isStandardNumber(name) || (!/^\d+$/.test(name) && !namesProtocol(words))
    readEntry(listFor(name, 'ipv4'), statement, stated, standard, groups)
  }
  for (const word of ['ip', 'ipv6'] as const) {
    for (const statement of device.startingWith(word)) {
      const { words, lowerWords } = statement.command
      if (lowerWords[1] !== 'access-list' || statement.negated) continue
      const family = word === 'ip' ? 'ipv4' : 'ipv6'
      const kind = lowerWords[2] === 'standard' || lowerWords[2] === 'extended' ? lowerWords[2] : null
      const [name, ...stated] = words.slice(kind === null ? 2 : 3)
      if (name === undefined) continue
      const list = listFor(name, family)
      const standard = kind === 'standard' || (kind === null && family === 'ipv4' && isStandardNumber(name))
      // One entry a line, or a block of entries.
      if (stated.length > 0)
        readEntry(
          list,
          statement,
          stated,
          standard || (family === 'ipv6' && !namesProtocol(unnumbered(stated))),
          groups,
        )
      else {
        list.nodes.push(...statement.nodes)
        list.statements.push(statement)
        for (const child of statement.scope?.statements ?? [])
          if (!child.negated) readEntry(list, child, child.command.words, standard, groups)
      }
    }
  }
  return new Map([...lists].sort(([, a], [, b]) => (a.nodes[0]?.line ?? 0) - (b.nodes[0]?.line ?? 0)))
}

interface GrowingList {
  readonly name: string
  readonly family: Family
  readonly entries: AccessEntry[]
  readonly nodes: SourceRange[]
  readonly statements: Statement[]
  /** That of the entry to come. */
  remark: string | null
}

/** `10 permit …`, `seq 10 permit …`: words without the number that an entry has in its line. */
function unnumbered(words: readonly string[]): readonly string[] {
  return words.slice(numberWords(words))
}

function numberWords(words: readonly string[]): number {
  const at = words[0] === 'seq' ? 1 : 0
  return /^\d+$/.test(words[at] ?? '') ? at + 1 : 0
}

/** Whether an entry of a list with a name asks for a protocol, or for addresses alone. */
function namesProtocol(words: readonly string[]): boolean {
  const word = words[1]?.toLowerCase() ?? ''
  return words.length > 3 && (word === 'ip' || Object.hasOwn(PROTOCOLS, word) || /^\d{1,3}$/.test(word))
}

function isStandardNumber(name: string): boolean {
  const number = /^\d+$/.test(name) ? Number(name) : 0
  return (number >= 1 && number <= 99) || (number >= 1300 && number <= 1999)
}

/** Adds one entry, or keeps a remark for the next; what is neither is left unread. */
function readEntry(
  list: GrowingList,
  statement: Statement,
  stated: readonly string[],
  standard: boolean,
  groups: Groups,
): void {
  const node = statement.nodes[0]
  const numbered = numberWords(stated)
  const words = stated.slice(numbered)
  const action = words[0]?.toLowerCase()
  if (!node) return
  if (action === 'remark') list.remark = words.slice(1).join(' ')
  else if (action === 'evaluate' || action === 'permit' || action === 'deny') {
    for (const { match, notWeighed, text } of wordsWeighed(
      statement.command,
      action,
      words,
      list.family,
      standard,
      groups,
    )) {
      list.entries.push({
        action: action === 'deny' ? 'deny' : 'permit',
        match,
        notWeighed,
        node,
        text,
        sequence: numbered === 0 ? null : Number(stated[numbered - 1]),
        remark: list.remark,
      })
    }
    list.remark = null
  } else if (!HARMLESS.test(words.join(' '))) {
    // Whatever it does, it may do it to any packet that comes to it; it is listed as unread besides.
    list.entries.push({
      action: 'unknown',
      match: {},
      notWeighed: [words.join(' ')],
      node,
      text: words.join(' '),
      sequence: numbered === 0 ? null : Number(stated[numbered - 1]),
      remark: list.remark,
    })
    return
  }
  if (node.parent === null) list.nodes.push(node)
  list.statements.push(statement)
}

/** Lines of a list that decide nothing. */
const HARMLESS = /^(?:statistics per-entry|exit)?$/

type Weighed = Pick<AccessEntry, 'match' | 'notWeighed' | 'text'>

/**
 * Lines of one estate repeat: what the words of one say is worked out once, unless it rests on groups of the device.
 */
const PLACES = {
  ipv4: findingsPlace(),
  'ipv4 standard': findingsPlace(),
  ipv6: findingsPlace(),
  'ipv6 standard': findingsPlace(),
}

function wordsWeighed(
  command: Command,
  action: 'evaluate' | 'permit' | 'deny',
  words: readonly string[],
  family: Family,
  standard: boolean,
  groups: Groups,
): readonly Weighed[] {
  const place = PLACES[standard ? (`${family} standard` as const) : family]
  const before = command.finding(place) as readonly Weighed[] | undefined
  if (before) return before
  const text = words.join(' ')
  // A reflexive list's contents are not in the configuration: what it permits cannot be weighed.
  if (action === 'evaluate') return [{ match: {}, notWeighed: [text], text }]
  const reader = new EntryReader(
    words.slice(1).map((word) => word.toLowerCase()),
    words.slice(1),
    family,
    groups,
  )
  const match = standard ? reader.standard() : reader.extended()
  // A group of services is as many entries as it has members.
  const weighed = (reader.services ?? [{}]).map((service): Weighed => ({
    match: { ...match, ...service },
    notWeighed: reader.notWeighed,
    text,
  }))
  if (!reader.usedGroups) command.keepFinding(place, weighed)
  return weighed
}
