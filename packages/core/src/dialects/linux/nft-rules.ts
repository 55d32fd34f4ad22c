import { items, leaf, member, type LocatedValue } from '../../syntax/json.ts'
import { prefixesOfRange } from '../../model/address-ranges.ts'
import { nameOf, type Chain, type IpFamily, type Ruleset } from './nft-ruleset.ts'

/** More alternatives than any rule by hand has: a rule of more is not weighed. */
const MOST = 512

/** Statements that only count or remember (libnftables-json(5)). */
const PASSIVE = new Set(['counter', 'comment', 'set', 'last', 'continue'])
/** Statements that make a rule meet fewer packets, in a way that no header shows. */
const NARROWING = new Set(['limit', 'quota', 'ct count', 'meter', 'connlimit'])
const VERDICTS: Readonly<Partial<Record<string, string>>> = {
  accept: 'ACCEPT',
  drop: 'DROP',
  reject: 'REJECT',
  return: 'RETURN',
}

/** Types of ICMP (RFC 792) and of ICMPv6 (RFC 4443, 4861, 2710) as nft names them. */
const ICMP: Readonly<Record<IpFamily, Readonly<Partial<Record<string, number>>>>> = {
  ipv4: {
    'echo-reply': 0,
    'destination-unreachable': 3,
    'source-quench': 4,
    redirect: 5,
    'echo-request': 8,
    'router-advertisement': 9,
    'router-solicitation': 10,
    'time-exceeded': 11,
    'parameter-problem': 12,
    'timestamp-request': 13,
    'timestamp-reply': 14,
  },
  ipv6: {
    'destination-unreachable': 1,
    'packet-too-big': 2,
    'time-exceeded': 3,
    'parameter-problem': 4,
    'echo-request': 128,
    'echo-reply': 129,
    'mld-listener-query': 130,
    'mld-listener-report': 131,
    'mld-listener-done': 132,
    'nd-router-solicit': 133,
    'nd-router-advert': 134,
    'nd-neighbor-solicit': 135,
    'nd-neighbor-advert': 136,
    'nd-redirect': 137,
    'mld2-listener-report': 143,
  },
}

/**
 * Writes a rule of nftables as saved rules say it: none where it meets no packet of the family, several where it lists
 * alternatives.
 */
export class RuleWriter {
  /** Matches so far; any of them is enough. */
  #alternatives: string[] = ['']
  readonly #out: string[] = []

  constructor(
    readonly ruleset: Ruleset,
    readonly chain: Chain,
  ) {
    if (chain.doubt !== null) this.#and([`-m ${quoted(chain.doubt)}`])
  }

  write(rule: LocatedValue): string[] {
    for (const statement of items(member(rule, 'expr'))) {
      if (statement.type !== 'object') continue
      for (const { name, value } of statement.members) this.#statement(name, value)
    }
    return this.#out
  }

  #statement(name: string, value: LocatedValue): void {
    const verdict = VERDICTS[name]
    if (name === 'match')
      this.#and(this.#match(member(value, 'left'), member(value, 'right'), leaf(member(value, 'op')) ?? '=='))
    else if (verdict) this.#emit(verdict)
    else if (name === 'jump' || name === 'goto')
      this.#emit(nameOf(this.chain.owner, leaf(member(value, 'target')) ?? ''), name === 'goto' ? '-g' : '-j')
    else if (name === 'log') this.#emit('LOG')
    else if (name === 'vmap') this.#verdictMap(value)
    else if (name === 'masquerade' || name === 'redirect' || name === 'snat' || name === 'dnat')
      this.#translate(name, value)
    else if (NARROWING.has(name) || (name === 'xt' && leaf(member(value, 'type')) === 'match'))
      this.#and([name === 'limit' ? '-m limit' : unweighed(name)])
    else if (!PASSIVE.has(name)) this.#emit(`nft.${name.replaceAll(' ', '-')}`)
  }

  #emit(target: string, how = '-j'): void {
    for (const match of this.#alternatives) this.#out.push(`${match}${match === '' ? '' : ' '}${how} ${target}`)
  }

  /** Both what was asked so far and one of these. */
  #and(options: readonly string[]): void {
    const joined = this.#alternatives.flatMap((before) => options.flatMap((option) => together(before, option) ?? []))
    this.#alternatives = joined.length > MOST ? [unweighed('alternatives')] : joined
  }

  #verdictMap(value: LocatedValue): void {
    const data = member(value, 'data')
    const named = leaf(data)
    const pairs = named?.startsWith('@')
      ? this.ruleset.elementsOf(this.chain.owner, named.slice(1))
      : items(member(data, 'set'))
    const before = this.#alternatives
    if (pairs === null) return this.#and([unweighed('vmap')])
    for (const pair of pairs) {
      const [element, verdict] = items(pair)
      this.#alternatives = before
      this.#and(this.#match(member(value, 'key'), elementIn(element), '=='))
      if (verdict?.type === 'object') for (const said of verdict.members) this.#statement(said.name, said.value)
    }
    this.#alternatives = before
  }

  #translate(name: 'masquerade' | 'redirect' | 'snat' | 'dnat', value: LocatedValue): void {
    const family = leaf(member(value, 'family'))
    if (family !== null && (family === 'ip6') !== (this.chain.family === 'ipv6')) return
    const address = textOf(member(value, 'addr'))
    const port = textOf(member(value, 'port'))
    if (address === null || port === null) return this.#emit(`nft.${name}`)
    if (name === 'masquerade' || name === 'redirect')
      return this.#emit(`${name.toUpperCase()}${port === '' ? '' : ` --to-ports ${port}`}`)
    const to = address.includes(':') && port !== '' ? `[${address}]` : address
    this.#emit(
      `${name.toUpperCase()} ${name === 'snat' ? '--to-source' : '--to-destination'} ${to}${port === '' ? '' : `:${port}`}`,
    )
  }

  /** The same as matches of saved rules, one of which is enough; none where it meets nothing of this family. */
  #match(left: LocatedValue | null, right: LocatedValue | null, op: string): string[] {
    const not = op === '!=' ? '! ' : ''
    if (!left || !right || !['==', '!=', 'in'].includes(op)) return [unweighed(`operator ${op}`)]
    const payload = member(left, 'payload')
    const values = this.#valuesOf(right)
    const state = leaf(member(member(left, 'ct'), 'key')) === 'state' && !member(member(left, 'ct'), 'dir')
    if (state && values?.length === 0) return not === '' ? [] : ['']
    if (state)
      return [
        values
          ? `-m conntrack ${not}--ctstate ${values.map((one) => (leaf(one) ?? '').toUpperCase()).join(',')}`
          : unweighed('ct state'),
      ]
    if (payload)
      return this.#payload(leaf(member(payload, 'protocol')) ?? '', leaf(member(payload, 'field')) ?? '', values, not)
    const key = leaf(member(member(left, 'meta'), 'key'))
    return key === null ? [flagsOf(left, right, op) ?? unweighed(nameIn(left))] : this.#meta(key, values, not)
  }

  #payload(protocol: string, field: string, values: readonly LocatedValue[] | null, not: string): string[] {
    const other =
      protocol === 'ip' || protocol === 'icmp'
        ? this.chain.family === 'ipv6'
        : (protocol === 'ip6' || protocol === 'icmpv6') && this.chain.family === 'ipv4'
    if (other) return []
    const said = values?.map(textOf)
    const name = `${protocol} ${field}`
    if (values?.length === 0) return not === '' ? [] : [anyOf(protocol, name)]
    if (!values || !said || said.includes(null)) return [unweighed(name)]
    if (field === 'saddr' || field === 'daddr') {
      const prefixes = values.map(prefixesOf)
      return [
        prefixes.includes(null)
          ? unweighed(name)
          : `${not}${field === 'saddr' ? '-s' : '-d'} ${prefixes.flat().join(',')}`,
      ]
    }
    const ports = said.map((text) => (text ?? '').replace('-', ':')).join(',')
    if (field === 'sport' || field === 'dport')
      return [protocol === 'th' ? unweighed(name) : `-p ${protocol} -m multiport ${not}--${field}s ${ports}`]
    if ((protocol === 'ip' && field === 'protocol') || (protocol === 'ip6' && field === 'nexthdr'))
      return this.#protocols(values, not)
    if ((protocol === 'icmp' || protocol === 'icmpv6') && field === 'type') return this.#icmp(protocol, values, not)
    if (field === 'dscp' && said.length === 1 && /^\d+$/.test(said[0] ?? ''))
      return [`-m dscp ${not}--dscp ${said[0] ?? ''}`]
    return [unweighed(name)]
  }

  #icmp(protocol: 'icmp' | 'icmpv6', values: readonly LocatedValue[], not: string): string[] {
    const numbers = values.map(
      (value) =>
        ICMP[this.chain.family][leaf(value) ?? ''] ?? (/^\d+$/.test(leaf(value) ?? '') ? Number(leaf(value)) : null),
    )
    if (numbers.includes(null) || (not !== '' && numbers.length > 1)) return [unweighed(`${protocol} type`)]
    const [word, option] = protocol === 'icmp' ? ['icmp', '--icmp-type'] : ['ipv6-icmp', '--icmpv6-type']
    return numbers.map((number) => `-p ${word} ${not}${option} ${number ?? 0}`)
  }

  #protocols(values: readonly LocatedValue[], not: string): string[] {
    if (not !== '' && values.length > 1) return [unweighed('protocols')]
    return values.map((value) => `${not}-p ${leaf(value) ?? ''}`)
  }

  #meta(key: string, values: readonly LocatedValue[] | null, not: string): string[] {
    if (!values) return [unweighed(`meta ${key}`)]
    if (values.length === 0) return not === '' ? [] : ['']
    if (key === 'l4proto') return this.#protocols(values, not)
    if (key === 'nfproto') {
      const own = values.some((value) => leaf(value) === this.chain.family)
      return own === (not === '') ? [''] : []
    }
    const option = /^iif(?:name)?$/.test(key) ? '-i' : /^oif(?:name)?$/.test(key) ? '-o' : null
    if (option === null || (not !== '' && values.length > 1)) return [unweighed(`meta ${key}`)]
    return values.map((value) => `${not}${option} ${(leaf(value) ?? '').replace(/\*$/, '+')}`)
  }

  /** A value, or those of a set; null where they are not known. */
  #valuesOf(value: LocatedValue): readonly LocatedValue[] | null {
    const named = leaf(value)
    if (named?.startsWith('@')) return this.ruleset.elementsOf(this.chain.owner, named.slice(1))?.map(elementIn) ?? null
    const set = member(value, 'set')
    if (set) return items(set).map(elementIn)
    return value.type === 'array' ? items(value) : [value]
  }
}

/** Nothing is in a set without elements. A rule that asks for what is not in it asks for the protocol of the field. */
function anyOf(protocol: string, name: string): string {
  if (protocol === 'ip' || protocol === 'ip6') return ''
  return protocol === 'tcp' || protocol === 'udp' ? `-p ${protocol}` : unweighed(name)
}

/** Two matches as one; null where they name different protocols, which no packet has. */
function together(before: string, option: string): string | null {
  const [own, other] = [/(?:^|(?<!!) )-p (\S+)/.exec(before)?.[1], /^-p (\S+)/.exec(option)?.[1]]
  if (own !== undefined && other !== undefined && own !== other) return null
  const rest = own !== undefined && own === other ? option.replace(/^-p \S+ ?/, '') : option
  return [before, rest].filter((part) => part !== '').join(' ')
}

/** `tcp flags & (MASK) == SET`. */
function flagsOf(left: LocatedValue, right: LocatedValue, op: string): string | null {
  const [payload, mask] = items(member(left, '&'))
  if (op !== '==' || leaf(member(member(payload, 'payload'), 'field')) !== 'flags') return null
  const words = (value: LocatedValue | undefined): string => {
    const flags =
      value?.type === 'array'
        ? items(value)
        : items(member(value, '|')).length > 0
          ? items(member(value, '|'))
          : value
            ? [value]
            : []
    return flags.map((flag) => (leaf(flag) ?? '').toUpperCase()).join(',')
  }
  return `-p tcp --tcp-flags ${words(mask)} ${words(right) === '0' ? 'NONE' : words(right)}`
}

function elementIn(value: LocatedValue | undefined): LocatedValue {
  return member(member(value, 'elem'), 'val') ?? value ?? { type: 'leaf', value: '', quoted: true, from: 0, to: 0 }
}

/** A value, a prefix or a range as text; empty where there is none, null for what is neither. */
function textOf(value: LocatedValue | null): string | null {
  if (value === null) return ''
  const prefix = member(value, 'prefix')
  if (prefix) return `${leaf(member(prefix, 'addr')) ?? ''}/${leaf(member(prefix, 'len')) ?? ''}`
  const range = items(member(value, 'range'))
  return range.length === 2 ? range.map((end) => leaf(end) ?? '').join('-') : leaf(value)
}

function prefixesOf(value: LocatedValue): string[] | null {
  const range = items(member(value, 'range'))
  const [from, to] = range.map((end) => leaf(end) ?? '')
  if (from !== undefined && to !== undefined) return prefixesOfRange(from, to)
  const text = textOf(value)
  return text === null || text === '' ? null : [text]
}

/** A match that saved rules do not know: whether a packet meets it is not known. */
function unweighed(name: string): string {
  return `-m ${quoted(`nft ${name}`)}`
}

function quoted(words: string): string {
  return words.replaceAll(' ', '.').replace(/[^\w.!=<>-]/g, '')
}

function nameIn(value: LocatedValue): string {
  return value.type === 'object' ? (value.members[0]?.name ?? 'match') : 'match'
}
