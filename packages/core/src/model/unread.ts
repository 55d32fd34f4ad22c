/**
 * What unparsed statements may have meant. Their known words agree with some forms and not with others; they can only
 * bear on what they agree with.
 */
import { findingsPlace, type Command, type Scope, type Statement } from '../syntax/index.ts'
import type { ModelledDevice } from './build.ts'
import type { ModelDialect } from './dialect.ts'
import { agreeingWords } from './mapping.ts'
import { matchPattern, type Pattern } from './pattern.ts'

/** Parts of the model that are settled from others when all lines have been read. */
const SETTLED: Readonly<Record<string, readonly string[]>> = {
  'system.services.ssh': ['system.terminals'],
  'system.services.telnet': ['system.terminals'],
  'system.services.lldp': ['system.lldpOnAll'],
  'system.aaa.servers': ['system.aaa.sharedKeys', 'system.aaa.methods', 'system.aaa.groups'],
  'system.snmp.hosts': ['system.snmp.targets', 'system.snmp.targetParameters', 'system.snmp.trapGroups'],
  'interfaces.ospf': ['ospf'],
  'interfaces.redirects': ['system.redirects'],
  'interfaces.lldp': ['system.lldpOnAll', 'system.services.lldp'],
  'interfaces.zone': ['zones'],
  'interfaces.tunnel': ['vpns', 'ikeGateways'],
  'interfaces.filters': ['accessLists'],
  'bgp.neighbours': ['bgp.groups'],
  'zones.interfaces': ['interfaces.zone'],
  ikeProposals: ['ikeGateways', 'ikePolicies'],
  espProposals: ['ipsecPolicies'],
  ipsecPolicies: ['ipsecPeers'],
}

function related(a: string, b: string): boolean {
  return a === '' || b === '' || a === b || a.startsWith(`${b}.`) || b.startsWith(`${a}.`)
}

/** A field, and those that it is settled from. */
function sourcesOf(path: string): string[] {
  return [path, ...Object.entries(SETTLED).flatMap(([settled, sources]) => (related(settled, path) ? sources : []))]
}

const bearing = new Map<string, readonly Pattern[]>()

/** The forms of statement, in a kind of block, that say something about a part of the model. */
export function formsAbout(dialect: ModelDialect, block: string | null | undefined, path: string): readonly Pattern[] {
  const key = `${dialect.id} ${block === null ? 'device' : `in ${block ?? ''}`} ${path}`
  let forms = bearing.get(key)
  if (!forms) {
    const sources = sourcesOf(path)
    const own = dialect.model.tables
      .filter((table) => table.block === block)
      .flatMap(({ bearings }) =>
        bearings.filter((one) => sources.some((source) => related(one.path, source))).map(({ pattern }) => pattern),
      )
    const entries =
      block === null && sources.some((source) => related('accessLists', source)) ? dialect.model.entryForms : []
    if (bearing.size > 5_000) bearing.clear()
    bearing.set(key, (forms = [...new Set([...own, ...entries])]))
  }
  return forms
}

const blocks = new Map<string, ReadonlySet<string | null | undefined>>()

/** Kinds of block in which something is said about a part of the model. */
export function blocksAbout(dialect: ModelDialect, path: string): ReadonlySet<string | null | undefined> {
  const key = `${dialect.id} ${path}`
  let found = blocks.get(key)
  if (!found) {
    if (blocks.size > 5_000) blocks.clear()
    blocks.set(
      key,
      (found = new Set(
        dialect.model.tables
          .map(({ block }) => block)
          .filter((block) => block !== null && formsAbout(dialect, block, path).length > 0),
      )),
    )
  }
  return found
}

const place = findingsPlace()

/** How many of the first words of a command are known, where it stands. */
function knownWords(dialect: ModelDialect, block: string | null | undefined, command: Command): number {
  const key = `${dialect.id} ${block ?? ''}`
  const before = command.finding(place) as { readonly key: string; readonly known: number } | undefined
  if (before?.key === key) return before.known
  const patterns = dialect.model.tables.filter((table) => table.block === block).flatMap((table) => table.patterns)
  const known = Math.max(
    0,
    ...[...patterns, ...(block === null ? dialect.model.entryForms : [])].map((pattern) =>
      agreeingWords(pattern, command),
    ),
  )
  command.keepFinding(place, { key, known })
  return known
}

/**
 * Whether a statement may have been meant to be of a form. In a block, where every line is about one thing, it may
 * where the words that are known agree; among the settings of the whole device it may where all but the first word that
 * is not known agree.
 */
export function mayBe(
  dialect: ModelDialect,
  block: string | null | undefined,
  { command, scope }: Statement,
  pattern: Pattern,
): boolean {
  // What opens a block in a listing has something in it.
  if (scope === null && opensBlock(dialect, pattern)) return false
  const known = knownWords(dialect, block, command)
  const { tokens } = pattern
  const length = block === null ? Math.max(tokens.length, command.words.length) : Math.min(known, tokens.length)
  for (let i = 0; i < length; i++) {
    const token = tokens[i]
    if (token?.kind === 'gap' || token?.kind === 'rest') break
    // A statement of a hierarchy may say several things of one at once.
    if (!token && dialect.model.pathStatements) break
    if (block === null && (!token || command.lowerWords[i] === undefined)) return false
    if (token?.kind === 'word' && i !== known && !token.anyOf.includes(command.lowerWords[i] ?? '')) return false
  }
  // A line that matches a form as it stands is found by the condition itself.
  return matchPattern(pattern, command) === null
}

/** Blocks that listings show with nothing in them. */
const MAY_BE_EMPTY = new Set(['zone', 'vlan', 'vrf', 'access-list', 'policy-map'])

const openers = new WeakMap<Pattern, boolean>()

function opensBlock(dialect: ModelDialect, pattern: Pattern): boolean {
  let opens = openers.get(pattern)
  if (opens === undefined) {
    const words = pattern.tokens.map((token) => (token.kind === 'word' ? (token.anyOf[0] ?? '') : '1'))
    const kind = dialect.blockOpenedBy(words.join(' '))
    opens = kind !== undefined && !MAY_BE_EMPTY.has(kind)
    openers.set(pattern, opens)
  }
  return opens
}

/**
 * An unparsed statement, the level at which it stands, and the statement at the top around it; null at the top itself.
 */
export interface UnreadPlace {
  readonly statement: Statement
  readonly scope: Scope
  readonly top: Statement | null
}

const places = new WeakMap<ModelledDevice, readonly UnreadPlace[]>()

/** All unparsed statements of a device, at every level, those within unparsed blocks included. */
export function unreadPlaces(device: ModelledDevice): readonly UnreadPlace[] {
  let found = places.get(device)
  if (!found) {
    const all: UnreadPlace[] = []
    const visit = (scope: Scope, top: Statement | null): void => {
      for (const statement of scope.statements) {
        if (device.isUnread(statement)) all.push({ statement, scope, top })
        if (statement.scope) visit(statement.scope, top ?? statement)
      }
    }
    visit(device.scope, null)
    places.set(device, (found = all))
  }
  return found
}

const unread = new WeakMap<ModelledDevice, WeakMap<Scope, readonly Statement[]>>()

/** The unparsed statements at one level of a configuration; of an unparsed block, the block alone. */
export function unreadAt(device: ModelledDevice, scope: Scope): readonly Statement[] {
  let known = unread.get(device)
  if (!known) unread.set(device, (known = new WeakMap()))
  let found = known.get(scope)
  if (!found) known.set(scope, (found = scope.statements.filter((statement) => device.isUnread(statement))))
  return found
}
