/** Saved filter rules, as they speak to the device model. */
import type { Scope, Statement } from '../../../syntax/index.ts'
import type { Family } from '../../../model/address.ts'
import { blank } from '../../../model/blank.ts'
import { accessEntrySchema, type DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { RuleReader, type Entry } from './rule-reader.ts'

export function readLinuxModel(scope: Scope, write: Writer<DeviceModel>): void {
  readFilterRules(scope, write, 'ipv4')
}

/** Saved rules of one family, which their records do not name. */
export function readFilterRules(scope: Scope, write: Writer<DeviceModel>, family: Family): void {
  for (const chain of scope.statements) {
    const [told = '', name = ''] = chain.command.words
    // A ruleset of nftables is of both families: tables of IPv6 say so.
    const table = told.replace(/6$/, '')
    const own = told === table ? family : 'ipv6'
    const rules = chain.scope?.statements ?? []
    write.provenance.used.add(chain)
    if (table === 'filter') readChain(write, chain, `filter ${name}`, rules, own)
    else if (table === 'nat') readNat(write, name, rules, own)
    // Of other tables only what holds a rule: chains with nothing but their policy let everything pass.
    else if (rules.length > 1 || rules[0]?.command.words[1] !== 'ACCEPT')
      readChain(write, chain, `${table} ${name}`, rules, own)
    else
      for (const rule of rules)
        write.provenance.harmless.set(rule, 'a chain with nothing but this lets everything pass')
  }
  write.provenance.nodes = []
}

function readChain(
  write: Writer<DeviceModel>,
  chain: Statement,
  name: string,
  rules: readonly Statement[],
  family: Family,
): void {
  const { provenance } = write
  provenance.nodes = chain.nodes
  const list = write.entry('accessLists', { name, family })
  let toPolicy = false
  let rest: { readonly action: 'permit' | 'deny'; readonly nodes: Statement['nodes'] } | null = null
  for (const rule of rules) {
    provenance.used.add(rule)
    provenance.nodes = rule.nodes
    if (rule.command.first === 'policy') list.set('defaultAction', POLICIES[rule.command.words[1] ?? ''] ?? 'deny')
    else {
      const entry = new RuleReader(rule.command.words, family).read(rule.text)
      list.add('entries', entry)
      // What goes elsewhere for good, and what returns, comes to the policy all the same.
      toPolicy ||= entry.forGood === true || entry.leadsTo === 'RETURN'
      if (!toPolicy && decidesTheRest(rule.command.words, entry))
        rest ??= { action: entry.action === 'permit' ? 'permit' : 'deny', nodes: rule.nodes }
    }
  }
  if (!rest) return
  // Nothing comes to the policy behind a rule that asks for nothing.
  provenance.nodes = rest.nodes
  list.set('defaultAction', rest.action)
}

/** Whether a rule accepts, drops or rejects whatever comes to it; a remark asks for nothing. */
function decidesTheRest(words: readonly string[], { action, notWeighed = [] }: Partial<Entry>): boolean {
  const asks = words
    .slice(
      0,
      words.findIndex((word) => word === '-j' || word === '-g'),
    )
    .join(' ')
  return (
    (action === 'permit' || action === 'deny') && notWeighed.length === 0 && /^(?:-m comment --comment .*)?$/.test(asks)
  )
}

function readNat(write: Writer<DeviceModel>, chain: string, rules: readonly Statement[], family: Family): void {
  for (const rule of rules) {
    if (rule.command.first === 'policy') {
      if (rule.command.words[1] === 'ACCEPT')
        write.provenance.harmless.set(rule, 'what no rule of translation meets goes on as it is')
      continue
    }
    write.provenance.used.add(rule)
    write.provenance.nodes = rule.nodes
    const reader = new RuleReader(rule.command.words, family)
    const match = { ...blank(accessEntrySchema), ...reader.read(rule.text) }
    write.add('nat', {
      kind: chain.toLowerCase(),
      statement: rule.text,
      interface: match.outInterface ?? match.inInterface,
      family,
      chain,
      match,
      ...reader.translation,
    })
  }
}

/** `-` is the policy of a chain of one's own. */
const POLICIES: Readonly<Partial<Record<string, 'permit' | 'return'>>> = { ACCEPT: 'permit', '-': 'return' }
