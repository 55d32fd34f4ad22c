/** Saved filter rules, as they speak to the device model. */
import type { Scope, Statement } from '../config/index.ts'
import { addressWords, parsePrefix, type AddressMatch, type Family } from './address.ts'
import { addressText } from './address-text.ts'
import type { HeldConfig } from './held-config.ts'
import { ICMP_TYPES, PORTS, PROTOCOLS } from './names.ts'
import type { DeviceModel } from './schema/index.ts'
import type { Writer } from './writer.ts'

type Entry = DeviceModel['accessLists'][number]['entries'][number]

export function readLinuxModel(held: HeldConfig, write: Writer<DeviceModel>): void {
  readFilterRules(held.scope, write, 'ipv4')
}

/** Saved rules of one family, which their records do not name. */
export function readFilterRules(scope: Scope, write: Writer<DeviceModel>, family: Family): void {
  for (const chain of scope.statements) {
    const [table = '', name = ''] = chain.command.words
    const rules = chain.scope?.statements ?? []
    write.sheet.used.add(chain)
    if (table === 'filter') readChain(write, chain, name, rules, family)
    else if (table === 'nat') readNat(write, name, rules)
  }
  write.sheet.nodes = []
}

function readChain(write: Writer<DeviceModel>, chain: Statement, name: string, rules: readonly Statement[], family: Family): void {
  const { sheet } = write
  sheet.nodes = chain.nodes
  const list = write.entry('accessLists', { name: `filter ${name}`, family })
  for (const rule of rules) {
    sheet.used.add(rule)
    sheet.nodes = rule.nodes
    if (rule.command.first === 'policy') list.set('defaultAction', POLICIES[rule.command.words[1] ?? ''] ?? 'deny')
    else list.add('entries', new RuleReader(rule.command.words, family).read(rule.text))
  }
}

function readNat(write: Writer<DeviceModel>, chain: string, rules: readonly Statement[]): void {
  for (const rule of rules) {
    write.sheet.used.add(rule)
    write.sheet.nodes = rule.nodes
    if (rule.command.first === 'policy') continue
    const words = rule.command.words
    const port = words.indexOf('-o') >= 0 ? words[words.indexOf('-o') + 1] : words.indexOf('-i') >= 0 ? words[words.indexOf('-i') + 1] : undefined
    write.add('nat', { kind: chain.toLowerCase(), statement: rule.text, interface: port ?? null })
  }
}

const INTERFACES: Readonly<Partial<Record<string, 'inInterface' | 'outInterface'>>> = { '-i': 'inInterface', '--in-interface': 'inInterface', '-o': 'outInterface', '--out-interface': 'outInterface' }

/** `-` is the policy of a chain of one's own. */
const POLICIES: Readonly<Partial<Record<string, 'permit' | 'return'>>> = { ACCEPT: 'permit', '-': 'return' }

/** Modules and marks that narrow nothing by themselves. */
const NO_MATTER = new Set(['-m', '--match'])

/** Reads the arguments of one rule. What narrows it in a way that a header does not show is named as not weighed. */
class RuleReader {
  #at = 0

  constructor(
    readonly words: readonly string[],
    readonly family: Family,
  ) {}

  read(text: string): Partial<Entry> {
    const entry: Partial<Entry> & { notWeighed: string[] } = { text, action: 'permit', protocols: [], sources: [], destinations: [], sourcePorts: [], destinationPorts: [], icmpTypes: [], icmpCodes: [], dscp: [], tcpFlags: [], connectionStates: [], notWeighed: [] }
    let negated = false
    for (let word = this.#next(); word !== undefined; word = this.#next()) {
      if (word === '!') {
        negated = true
        continue
      }
      const place = INTERFACES[word]
      if (NO_MATTER.has(word)) this.#next()
      else if (place) entry[place] = `${negated ? '!' : ''}${this.#next() ?? ''}`
      else if (negated) entry.notWeighed.push(`! ${word} ${this.#next() ?? ''}`)
      else this.#option(word, entry)
      negated = false
    }
    return entry
  }

  #next(): string | undefined {
    return this.words[this.#at++]
  }

  #option(word: string, entry: Partial<Entry> & { notWeighed: string[] }): void {
    switch (word) {
      case '-s':
      case '--source':
        entry.sources = this.#addresses(entry)
        return
      case '-d':
      case '--destination':
        entry.destinations = this.#addresses(entry)
        return
      case '-p':
      case '--protocol':
        this.#protocol(entry)
        return
      case '--sport':
      case '--source-port':
      case '--sports':
        entry.sourcePorts = this.#ports(entry)
        return
      case '--dport':
      case '--destination-port':
      case '--dports':
        entry.destinationPorts = this.#ports(entry)
        return
      case '--icmp-type':
      case '--icmpv6-type':
        this.#icmp(entry)
        return
      case '--dscp':
        this.#dscp(entry)
        return
      case '--tcp-flags':
        this.#flags(entry)
        return
      case '--syn':
        entry.tcpFlags = ['syn', '!ack', '!rst', '!fin']
        return
      case '--state':
      case '--ctstate':
        this.#state(entry)
        return
      case '-f':
      case '--fragment':
        entry.fragments = true
        return
      case '--comment':
        entry.remark = this.#next() ?? null
        return
      case '-j':
      case '-g':
        this.#target(entry)
        return
      default:
        entry.notWeighed.push(word.startsWith('-') ? `${word} ${this.#next() ?? ''}`.trim() : word)
    }
  }

  #addresses(entry: { notWeighed: string[] }): string[] {
    return (this.#next() ?? '').split(',').flatMap((text) => {
      const match = this.#address(text)
      if (!match) entry.notWeighed.push(text)
      return match ? [addressText(match)] : []
    })
  }

  /** `10.0.0.0/8`, `10.0.0.1`, or an address with a mask written out. */
  #address(text: string): AddressMatch | null {
    const [address = '', mask] = text.split('/')
    const words = mask?.includes('.') ? addressWords(mask, 'ipv4') : null
    const value = words ? addressWords(address, 'ipv4') : null
    return words && value ? { value: value.map((word, i) => (word & (words[i] ?? 0)) >>> 0), care: words } : parsePrefix(text)
  }

  #protocol(entry: Partial<Entry> & { notWeighed: string[] }): void {
    const word = this.#next() ?? ''
    if (word === 'all' || word === '0') return
    const number = /^\d+$/.test(word) ? Number(word) : PROTOCOLS[word]
    if (number === undefined) entry.notWeighed.push(`protocol ${word}`)
    else entry.protocols = [[number, number]]
  }

  #ports(entry: { notWeighed: string[] }): [number, number][] {
    return (this.#next() ?? '').split(',').flatMap((text): [number, number][] => {
      const [from, to = from] = text.split(':').map((part) => (/^\d+$/.test(part) ? Number(part) : (PORTS.tcp[part] ?? PORTS.udp[part])))
      if (from !== undefined && to !== undefined) return [[from, to]]
      entry.notWeighed.push(`port ${text}`)
      return []
    })
  }

  #icmp(entry: Partial<Entry> & { notWeighed: string[] }): void {
    const word = this.#next() ?? ''
    const [type = '', code] = word.split('/')
    const number = /^\d+$/.test(type) ? Number(type) : ICMP_TYPES[type]
    const codeNumber = code !== undefined && /^\d+$/.test(code) ? Number(code) : null
    if (number === undefined || (code !== undefined && codeNumber === null)) entry.notWeighed.push(`icmp ${word}`)
    if (number !== undefined) entry.icmpTypes = [[number, number]]
    if (codeNumber !== null) entry.icmpCodes = [[codeNumber, codeNumber]]
  }

  #dscp(entry: Partial<Entry> & { notWeighed: string[] }): void {
    const word = this.#next() ?? ''
    const value = Number(word)
    if (Number.isInteger(value) && value >= 0 && value <= 63) entry.dscp = [[value, value]]
    else entry.notWeighed.push(`dscp ${word}`)
  }

  /** `--tcp-flags LOOKED-AT SET`: what is looked at and not set must not be set. */
  #flags(entry: Partial<Entry>): void {
    const words = (text: string | undefined): string[] => (text ?? '').toLowerCase().split(',').filter((word) => word !== '' && word !== 'none').flatMap((word) => (word === 'all' ? ['fin', 'syn', 'rst', 'psh', 'ack', 'urg'] : [word]))
    const looked = words(this.#next())
    const set = words(this.#next())
    entry.tcpFlags = looked.map((flag) => (set.includes(flag) ? flag : `!${flag}`))
  }

  #state(entry: Partial<Entry>): void {
    entry.connectionStates = (this.#next() ?? '').toLowerCase().split(',')
  }

  #target(entry: Partial<Entry> & { notWeighed: string[] }): void {
    const target = this.#next() ?? ''
    if (target === 'ACCEPT') entry.action = 'permit'
    else if (target === 'DROP' || target === 'REJECT') entry.action = 'deny'
    else if (target === 'LOG' || target === 'NFLOG') {
      // It decides nothing: the packet goes on to the next rule.
      entry.action = 'other'
      entry.logged = true
    } else {
      entry.action = 'other'
      entry.leadsTo = target
    }
    // What follows a target are its own options.
    if (target !== 'ACCEPT') this.#at = this.words.length
  }
}
