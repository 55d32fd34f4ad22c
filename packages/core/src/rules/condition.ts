import { lastLineOf, type ConfigNode, type Scope, type Statement } from '../config/index.ts'
import { diffScopes } from '../compare/index.ts'
import { parsePrefix, type AccessList, type DeviceModel } from '../model/index.ts'
import { admits, fromSources, openToAll } from '../packets/index.ts'
import { placeOf, searched, type Finding, type Place } from './evidence.ts'
import { canonicalHost, compileExpression, compileTemplate, sameHost, userPattern } from './expression.ts'
import { compilePattern, matchPattern, type Bindings, type Pattern } from './pattern.ts'
import type { Condition } from './schema.ts'

/** A device as rules see it: its running configuration and, by kind, what else was captured. */
export interface JudgedDevice {
  readonly name: string
  readonly record: string
  readonly model: DeviceModel
  readonly others: ReadonlyMap<string, { readonly record: string; readonly model: DeviceModel }>
}


/** One evaluation: where it looks, and the names bound so far (a condition may add to them). */
export class Inquiry {
  constructor(
    readonly device: JudgedDevice,
    readonly scope: Scope,
    readonly names: Record<string, unknown>,
  ) {}

  within(scope: Scope): Inquiry {
    return new Inquiry(this.device, scope, this.names)
  }

  /** Whether lines that are not here may stand in the part of the record that was not captured. */
  get mayHideLines(): boolean {
    const { faults } = this.device.model.tree
    if (faults.length === 0) return false
    if (this.scope.openers.length === 0) return true
    return this.scope.openers.some((node) => faults.some((fault) => fault.line >= node.line && fault.line <= lastLineOf(node) + 1))
  }

  whole(): Place[] {
    return searched(this.device.record, this.device.model.tree, this.scope.openers)
  }
}

const NOWHERE = (): readonly Place[] => []

export type Ask = (inquiry: Inquiry) => Finding

export interface LineMatch {
  readonly statement: Statement
  readonly names: Bindings
}

const compiled = new Map<string, Ask>()

/** Equal conditions are one: what one branch has found out of a device, the next need not look for. @throws Error that says what is wrong */
export function compileCondition(condition: Condition): Ask {
  const key = JSON.stringify(condition)
  const known = compiled.get(key)
  if (known) return known
  const ask = compile(condition)
  if (compiled.size > 5_000) compiled.clear()
  compiled.set(key, ask)
  return ask
}

function compile(condition: Condition): Ask {
  if (typeof condition === 'string') return askLine([condition], undefined)
  if ('line' in condition && condition.line !== undefined) return askLine([condition.line].flat(), condition.where)
  if ('absent' in condition && condition.absent !== undefined) return not(askLine([condition.absent].flat(), condition.where))
  if ('all' in condition) return askAll(condition.all.map(compileCondition))
  if ('any' in condition) return askAny(condition.any.map(compileCondition))
  if ('none' in condition) return not(askAny(condition.none.map(compileCondition)))
  if ('expr' in condition) return askExpression(condition.expr)
  if ('device' in condition) return askDevice(compileCondition(condition.device))
  if ('set' in condition) return askSet(condition.set)
  if ('list' in condition) return askList(condition.list)
  if ('admits' in condition) return askAdmits(condition.admits)
  if ('body' in condition) return askBody([condition.body.of].flat(), condition.body.found)
  if ('some' in condition) return askSome([condition.some.block].flat(), compileCondition(condition.some.has), !/"(?:where|expr|list|admits|set|collect)"/.test(JSON.stringify(condition.some)))
  if ('only' in condition) return askOnly(condition.only)
  if ('collect' in condition) return askCollect(condition.collect)
  if ('record' in condition) return ({ device }) => ({ truth: device.others.has(condition.record), places: NOWHERE })
  if ('differs' in condition) return askDiffers(condition.differs)
  throw new Error(`Unknown condition ${JSON.stringify(condition)}`)
}

/** The lines of a scope that match one of some patterns and, with what they bind, an expression. */
export function matcherFor(sources: readonly string[], where: string | undefined): (inquiry: Inquiry) => LineMatch[] {
  const patterns = sources.map(compilePattern)
  const others = new Map(patterns.map((pattern) => [pattern, unbound(pattern, patterns)]))
  const expression = where === undefined ? null : compileExpression(where)
  return ({ scope, names }) => {
    const found: LineMatch[] = []
    const met = patterns.length > 1 ? new Set<Statement>() : null
    for (const pattern of patterns) {
      for (const statement of scope.startingWith(pattern.first)) {
        if (statement.negated !== pattern.negated || met?.has(statement)) continue
        const bound = matchPattern(pattern, statement.words)
        if (!bound) continue
        if (expression && expression.evaluate({ ...names, ...others.get(pattern), ...bound }) !== true) continue
        met?.add(statement)
        found.push({ statement, names: patterns.length > 1 ? { ...others.get(pattern), ...bound } : bound })
      }
    }
    return found
  }
}

/** Names that another pattern of the same condition binds are empty rather than unknown to its expression. */
function unbound(pattern: Pattern, all: readonly Pattern[]): Bindings {
  if (all.length === 1) return {}
  return Object.fromEntries(all.flatMap((other) => other.tokens.flatMap((token) => (token.kind === 'bind' || token.kind === 'rest' ? [[token.name, token.kind === 'bind' && token.type === 'int' ? 0n : '']] : []))).filter(([name]) => !pattern.names.includes(String(name))))
}

function askLine(sources: readonly string[], where: string | undefined): Ask {
  const match = matcherFor(sources, where)
  const opposite = oppositeOf(sources)
  const firsts = [...new Set(sources.map((source) => compilePattern(source).first))]
  return (inquiry) => {
    // Most blocks hold no line that begins like this one, in either form.
    if (firsts.every((first) => inquiry.scope.startingWith(first).length === 0)) {
      return { truth: inquiry.mayHideLines ? 'unknown' : false, places: () => inquiry.whole(), why: incomplete(inquiry) }
    }
    const found = match(inquiry)
    const record = inquiry.device.record
    if (found.length > 0) {
      Object.assign(inquiry.names, found[0]?.names)
      return { truth: true, places: () => found.flatMap(({ statement }) => statement.nodes.map((node) => placeOf(record, node))) }
    }
    // The same command in the other form settles the matter as well as the line itself would.
    const against = opposite(inquiry)
    if (against.length > 0) return { truth: false, places: () => against.map((node) => placeOf(record, node)) }
    return { truth: inquiry.mayHideLines ? 'unknown' : false, places: () => inquiry.whole(), why: incomplete(inquiry) }
  }
}

function oppositeOf(sources: readonly string[]): (inquiry: Inquiry) => ConfigNode[] {
  const flipped = sources.map((source) => matcherFor([source.startsWith('no ') ? source.slice(3) : `no ${source}`], undefined))
  return (inquiry) => flipped.flatMap((match) => match(inquiry).flatMap(({ statement }) => [...statement.nodes]))
}

function incomplete({ device }: Inquiry): string | undefined {
  const fault = device.model.tree.faults[0]
  return fault && `the record is not whole (line ${fault.line}: ${fault.reason})`
}

function not(ask: Ask): Ask {
  return (inquiry) => {
    const finding = ask(inquiry)
    return { ...finding, truth: finding.truth === 'unknown' ? 'unknown' : !finding.truth }
  }
}

/** Kleene's strong AND, left to right, so that later conditions see what earlier ones bind. */
function askAll(asks: readonly Ask[]): Ask {
  return (inquiry) => {
    const met: Finding[] = []
    let unknown: Finding | null = null
    for (const ask of asks) {
      const finding = ask(inquiry)
      if (finding.truth === false) return finding
      if (finding.truth === 'unknown') unknown ??= finding
      met.push(finding)
    }
    return unknown ?? together(true, met)
  }
}

function askAny(asks: readonly Ask[]): Ask {
  return (inquiry) => {
    const met: Finding[] = []
    let unknown: Finding | null = null
    for (const ask of asks) {
      const finding = ask(inquiry)
      if (finding.truth === true) return finding
      if (finding.truth === 'unknown') unknown ??= finding
      met.push(finding)
    }
    return unknown ?? together(false, met)
  }
}

function together(truth: boolean, findings: readonly Finding[]): Finding {
  return {
    truth,
    places: () => findings.flatMap((finding) => finding.places()),
    missing: findings.flatMap((finding) => finding.missing ?? []),
    extra: findings.flatMap((finding) => finding.extra ?? []),
  }
}

function askExpression(source: string): Ask {
  const expression = compileExpression(source)
  return ({ names }) => ({ truth: expression.evaluate(names) === true, places: NOWHERE })
}

function askDevice(ask: Ask): Ask {
  return (inquiry) => ask(inquiry.within(inquiry.device.model.scope))
}

function askSome(sources: readonly string[], ask: Ask, closed: boolean): Ask {
  const match = matcherFor(sources, undefined)
  // Where nothing bound elsewhere plays a part, the answer is the same for every subject of a device.
  const answers = new WeakMap<Scope, Finding>()
  return (inquiry) => {
    const known = answers.get(inquiry.scope)
    const finding = known ?? look(inquiry)
    if (closed && !known) answers.set(inquiry.scope, finding)
    return finding
  }

  function look(inquiry: Inquiry): Finding {
    const blocks = match(inquiry)
    const found: Place[] = []
    let unknown: Finding | null = null
    for (const { statement, names } of blocks) {
      if (!statement.scope) continue
      const finding = ask(new Inquiry(inquiry.device, statement.scope, { ...inquiry.names, ...names }))
      if (finding.truth === true) found.push(...statement.nodes.map((node) => placeOf(inquiry.device.record, node)), ...finding.places())
      else if (finding.truth === 'unknown') unknown ??= finding
    }
    if (found.length > 0) return { truth: true, places: () => found }
    if (unknown) return unknown
    const places = (): Place[] => blocks.flatMap(({ statement }) => searched(inquiry.device.record, inquiry.device.model.tree, statement.nodes))
    return { truth: inquiry.mayHideLines ? 'unknown' : false, places: blocks.length > 0 ? places : () => inquiry.whole(), why: incomplete(inquiry) }
  }
}

function askOnly(sources: readonly string[]): Ask {
  const patterns = sources.map(compilePattern)
  return (inquiry) => {
    const isBeside = (statement: Statement): boolean => !statement.negated && !patterns.some((pattern) => matchPattern(pattern, statement.words))
    if (inquiry.scope.statements.some(isBeside)) {
      return { truth: false, places: () => inquiry.scope.statements.filter(isBeside).flatMap(({ nodes }) => nodes.map((node) => placeOf(inquiry.device.record, node))) }
    }
    return { truth: inquiry.mayHideLines ? 'unknown' : true, places: () => inquiry.whole(), why: incomplete(inquiry) }
  }
}

function askCollect({ of, take, as }: { of: string | string[]; take: string; as: string }): Ask {
  const match = matcherFor([of].flat(), undefined)
  return (inquiry) => {
    const found = match(inquiry)
    inquiry.names[as] = found.map(({ names }) => String(names[take]))
    return { truth: true, places: NOWHERE }
  }
}

/** Compares what lines name with a list value: as equal sets, or as lying within it. */
function askSet({ of, take, equals, within }: { of: string | string[]; take: string; equals?: string; within?: string }): Ask {
  const match = matcherFor([of].flat(), undefined)
  const listName = equals ?? within
  if (listName === undefined) throw new Error(`Condition "set": give "equals" or "within"`)
  return (inquiry) => {
    const wanted = (inquiry.names[listName] as unknown[] | undefined)?.map(String) ?? []
    const found = match(inquiry)
    const named = found.map(({ names }) => String(names[take]))
    const extra = named.filter((host) => !wanted.some((other) => sameHost(host, other)))
    const missing = equals === undefined ? [] : wanted.filter((host) => !named.some((other) => sameHost(host, other)))
    Object.assign(inquiry.names, { missing, extra: [...new Map(extra.map((host) => [canonicalHost(host), host])).values()] })
    const places = found.flatMap(({ statement }) => statement.nodes.map((node) => placeOf(inquiry.device.record, node)))
    const holds = missing.length === 0 && extra.length === 0
    const unsure = inquiry.mayHideLines && extra.length === 0
    return {
      truth: unsure ? 'unknown' : holds,
      places: () => (missing.length > 0 || places.length === 0 ? [...places, ...inquiry.whole()] : places),
      missing,
      extra,
      why: unsure ? incomplete(inquiry) : undefined,
    }
  }
}

function listNamed(inquiry: Inquiry, name: string, family: 'ipv4' | 'ipv6'): AccessList | undefined {
  return inquiry.device.model.accessLists.get(`${family} ${name}`)
}

function askList({ name, family, is }: { name: string; family: 'ipv4' | 'ipv6'; is: 'missing' | 'empty' | 'open' }): Ask {
  const template = compileTemplate(name)
  return (inquiry) => {
    const { device } = inquiry
    const list = listNamed(inquiry, template.render(inquiry.names), family)
    const places = (): Place[] => list?.nodes.map((node) => placeOf(device.record, node)) ?? searched(device.record, device.model.tree, [])
    const hidden = device.model.tree.faults.length > 0
    if (!list) return { truth: is === 'missing' ? (hidden ? 'unknown' : true) : hidden ? 'unknown' : false, places, why: incomplete(inquiry) }
    if (is === 'missing') return { truth: false, places }
    if (is === 'empty') return { truth: list.entries.length === 0 ? (hidden ? 'unknown' : true) : false, places }
    const open = openToAll(list)
    return { truth: open.answer === 'undecided' ? 'unknown' : open.answer === 'some', places: () => (open.by ? [placeOf(device.record, open.by.node)] : places()), why: open.why ?? undefined }
  }
}

/** Whether a list lets in packets from any of some prefixes; binds `prefixes`, those that get in. */
function askAdmits({ list: name, sources }: { list: string; sources: string }): Ask {
  const template = compileTemplate(name)
  return (inquiry) => {
    const { device, names } = inquiry
    const list = listNamed(inquiry, template.render(names), 'ipv4')
    if (!list) return { truth: true, places: () => searched(device.record, device.model.tree, []) }
    const entering: string[] = []
    const places: Place[] = []
    let undecided: string | null = null
    for (const text of (names[sources] as unknown[]).map(String)) {
      const prefix = parsePrefix(text)
      if (!prefix || prefix.family !== 'ipv4') continue
      const admission = admits(list, fromSources(prefix))
      if (admission.answer === 'undecided') undecided ??= `${text}: ${admission.why ?? ''}`
      if (admission.answer !== 'some' || !admission.by) continue
      entering.push(text)
      places.push(placeOf(device.record, admission.by.node))
    }
    names['prefixes'] = entering
    if (entering.length > 0) return { truth: true, places: () => places, extra: entering }
    const lines = (): Place[] => list.nodes.map((node) => placeOf(device.record, node))
    return undecided === null ? { truth: false, places: lines } : { truth: 'unknown', places: lines, why: undecided }
  }
}

function askBody(sources: readonly string[], pattern: string): Ask {
  const match = matcherFor(sources, undefined)
  const wanted = userPattern(pattern)
  return (inquiry) => {
    const nodes = match(inquiry).flatMap(({ statement }) => statement.nodes.slice(-1))
    const places = (): Place[] => nodes.map((node) => placeOf(inquiry.device.record, node))
    if (nodes.some((node) => wanted.test(node.body ?? ''))) return { truth: true, places }
    if (nodes.length > 0) return { truth: false, places }
    return { truth: inquiry.mayHideLines ? 'unknown' : false, places: () => inquiry.whole(), why: incomplete(inquiry) }
  }
}

/** What differs between the running configuration and another one: `missing` there, `extra` there. */
function askDiffers(kind: string): Ask {
  return ({ device, names }) => {
    const other = device.others.get(kind)
    if (!other) return { truth: 'unknown', places: NOWHERE, why: `there is no record "${kind}"` }
    const differences = diffScopes(device.model.scope, other.model.scope, (block) => device.model.dialect.isOrdered(block))
    const faults = [...device.model.tree.faults, ...other.model.tree.faults]
    if (faults.length > 0) return { truth: 'unknown', places: NOWHERE, why: `one of the records is not whole (${faults[0]?.reason ?? ''})` }
    const places = (): Place[] => differences.flatMap(({ side, nodes }) => nodes.map((node) => placeOf(side === 'a' ? device.record : other.record, node)))
    const lines = (side: 'a' | 'b'): string[] => differences.filter((d) => d.side === side).map(({ path }) => path.join(' › '))
    const range = (): Place[] => searched(device.record, device.model.tree, [])
    const [missing, extra] = [lines('a'), lines('b')]
    Object.assign(names, { missing, extra })
    return { truth: differences.length > 0, places: differences.length > 0 ? places : range, missing, extra }
  }
}
