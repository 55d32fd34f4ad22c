import { Recent, type Scope, type Statement } from '../syntax/index.ts'
import { diffScopes, type Difference } from '../compare/index.ts'
import { compilePattern, matchPattern, parsePrefix, type AccessList, type Pattern } from '../model/index.ts'
import { admits, fromSources, openToAll, type Box } from '../headers/index.ts'
import { incomplete, type CompiledCondition } from './compiled-condition.ts'
import { askCount, askExactly, askHolds, askIn, askMatching, askOrder } from './block-conditions.ts'
import { askChange } from './change-condition.ts'
import { askEnds, askSame, askUnique } from './estate-condition.ts'
import { askState } from './state-condition.ts'
import { unreadHere, unreadLike } from './doubt.ts'
import { Finding, allOf, doubtsOf, placeOf, searched, type Place } from './evidence.ts'
import { canonicalHost, compileExpression, compileTemplate, userPattern } from './expression.ts'
import { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'
import { askModel } from './model-condition.ts'
import { askAccess } from './access-condition.ts'
import { askOutside } from './outside-condition.ts'
import { askOpens } from './opens-condition.ts'
import { LineMatcher, type LineMatch } from './line-matcher.ts'
import type { Condition } from './schema.ts'

const NOWHERE = (): readonly Place[] => []

const compiled = new Map<string, CompiledCondition>()

/**
 * Equal conditions are one: what one branch has found out of a device, the next need not look for. @throws Error that
 * says what is wrong
 */
export function compileCondition(condition: Condition): CompiledCondition {
  const key = JSON.stringify(condition)
  const known = compiled.get(key)
  if (known) return known
  const ask = compile(condition)
  if (compiled.size > 5_000) compiled.clear()
  compiled.set(key, ask)
  return ask
}

function compile(condition: Condition): CompiledCondition {
  if (typeof condition === 'string') return askLine([condition], undefined)
  if ('line' in condition && condition.line !== undefined)
    return placed(condition.in, askLine([condition.line].flat(), condition.where))
  if ('absent' in condition && condition.absent !== undefined)
    return not(placed(condition.in, askLine([condition.absent].flat(), condition.where)))
  if ('matching' in condition) return placed(condition.in, askMatching(condition.matching))
  if ('holds' in condition) return askHolds(condition.holds)
  if ('exactly' in condition) return placed(condition.in, askExactly(condition.exactly))
  if ('order' in condition) return placed(condition.in, askOrder(condition.order, condition.contiguous === true))
  if ('count' in condition) return placed(condition.in, askCount(condition.count))
  if ('state' in condition) return askState(condition)
  if ('change' in condition) return askChange(condition.change)
  if ('same' in condition) return askSame(condition.same, condition.among)
  if ('unique' in condition) return askUnique(condition.unique)
  if ('access' in condition) return askAccess(condition.access)
  if ('outside' in condition) return askOutside(condition.outside)
  if ('opens' in condition) return askOpens(condition.opens)
  if ('ends' in condition) return askEnds(condition.ends)
  if ('all' in condition) return askAll(condition.all.map(compileCondition))
  if ('any' in condition) return askAny(condition.any.map(compileCondition))
  if ('none' in condition) return not(askAny(condition.none.map(compileCondition)))
  if ('expr' in condition) return askExpression(condition.expr)
  if ('device' in condition) return askDevice(compileCondition(condition.device))
  if ('set' in condition) return askSet(condition.set)
  if ('list' in condition) return askList(condition.list)
  if ('admits' in condition) return askAdmits(condition.admits)
  if ('body' in condition) return askBody([condition.body.of].flat(), condition.body.found)
  if ('some' in condition)
    return askSome(
      [condition.some.block].flat(),
      compileCondition(condition.some.has),
      !/"(?:where|expr|list|admits|set|collect|model)"/.test(JSON.stringify(condition.some)),
    )
  if ('only' in condition) return askOnly(condition.only)
  if ('collect' in condition) return askCollect(condition.collect)
  if ('record' in condition)
    return ({ device }) =>
      new Finding(
        device.others.has(condition.record) || device.outputs().some(({ kind }) => kind === condition.record),
        NOWHERE,
      )
  if ('differs' in condition) return askDiffers(condition.differs)
  if ('model' in condition) return askModel(condition.model)
  throw new Error(`Unknown condition ${JSON.stringify(condition)}`)
}

function placed(chain: string | string[] | undefined, ask: CompiledCondition): CompiledCondition {
  return chain === undefined ? ask : askIn(chain, ask)
}

function askLine(sources: readonly string[], where: string | undefined): CompiledCondition {
  const lines = new LineMatcher(sources, where)
  // The same command in the other form settles the matter as well as the line itself would.
  const opposite = new LineMatcher(
    sources.map((source) => (source.startsWith('no ') ? source.slice(3) : `no ${source}`)),
  )
  return (inquiry) => {
    const found = lines.first(inquiry)
    const doubts = unreadLike(inquiry, lines.patterns)
    if (found) {
      // What is found may hang on names that are bound anew later: then all of it is looked for now.
      const all = lines.asksNames ? lines.all(inquiry) : null
      inquiry.bind(found.names)
      return new Finding(true, () => placesOf(inquiry, all ?? lines.all(inquiry)), undefined, doubts)
    }
    if (!inquiry.mayHideLines)
      return new Finding(false, () => placesOr(inquiry, opposite.all(inquiry)), undefined, doubts)
    const against = opposite.all(inquiry)
    if (against.length > 0) return new Finding(false, () => placesOf(inquiry, against), undefined, doubts)
    return new Finding('unknown', () => inquiry.whole(), incomplete(inquiry))
  }
}

function placesOf({ device }: EvaluationContext, found: readonly LineMatch[]): Place[] {
  return found.flatMap(({ statement }) => statement.nodes.map((node) => placeOf(device.record, node)))
}

/** The lines found, or the range searched where there are none. */
function placesOr(inquiry: EvaluationContext, found: readonly LineMatch[]): Place[] {
  return found.length > 0 ? placesOf(inquiry, found) : inquiry.whole()
}

function not(ask: CompiledCondition): CompiledCondition {
  return (inquiry) => {
    const finding = ask(inquiry)
    return new Finding(
      finding.truth === 'unknown' ? 'unknown' : !finding.truth,
      finding.places,
      finding.reasons,
      finding.doubts,
    )
  }
}

/** Kleene's strong AND, left to right, so that later conditions see what earlier ones bind. */
function askAll(asks: readonly CompiledCondition[]): CompiledCondition {
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

function askAny(asks: readonly CompiledCondition[]): CompiledCondition {
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
  return new Finding(
    truth,
    () => findings.flatMap((finding) => finding.places()),
    { missing: allOf(findings, 'missing'), extra: allOf(findings, 'extra') },
    doubtsOf(findings),
  )
}

function askExpression(source: string): CompiledCondition {
  const expression = compileExpression(source)
  return ({ names }) => new Finding(expression.evaluate(names) === true, NOWHERE)
}

function askDevice(ask: CompiledCondition): CompiledCondition {
  return (inquiry) => ask(inquiry.within(inquiry.device.held.scope))
}

function askSome(sources: readonly string[], ask: CompiledCondition, closed: boolean): CompiledCondition {
  const lines = new LineMatcher(sources)
  // Where nothing bound elsewhere plays a part, the answer is the same for every subject of a device.
  const answers = new WeakMap<Scope, Finding>()
  return (inquiry) => {
    const known = closed ? answers.get(inquiry.scope) : undefined
    if (known) return known
    const finding = lookIntoBlocks(inquiry, lines, ask)
    if (closed) answers.set(inquiry.scope, finding)
    return finding
  }
}

/** Where more blocks than these were searched in vain, the whole is the better account of it. */
const BLOCKS_SHOWN = 6

function lookIntoBlocks(inquiry: EvaluationContext, lines: LineMatcher, ask: CompiledCondition): Finding {
  const { device } = inquiry
  const blocks: readonly LineMatch[] = lines.all(inquiry)
  const found: Place[] = []
  const asked: Finding[] = [new Finding(true, NOWHERE, undefined, unreadLike(inquiry, lines.patterns))]
  let unknown: Finding | null = null
  for (const { statement, names } of blocks) {
    if (!statement.scope) continue
    const finding = ask(new EvaluationContext(device, statement.scope, inquiry.names, names))
    asked.push(finding)
    if (finding.truth === true)
      found.push(...statement.nodes.map((node) => placeOf(device.record, node)), ...finding.places())
    else if (finding.truth === 'unknown') unknown ??= finding
  }
  if (found.length > 0) return new Finding(true, () => found, undefined, doubtsOf(asked))
  if (unknown) return unknown
  return new Finding(
    inquiry.mayHideLines ? 'unknown' : false,
    () =>
      blocks.length > 0 && blocks.length <= BLOCKS_SHOWN
        ? blocks.flatMap(({ statement }) => searched(device.record, device.held.tree, statement.nodes))
        : inquiry.whole(),
    incomplete(inquiry),
    doubtsOf(asked),
  )
}

function askOnly(sources: readonly string[]): CompiledCondition {
  const patterns = sources.map(compilePattern)
  return (inquiry) => {
    const { device, scope } = inquiry
    if (scope.statements.some((statement) => isBeside(statement, patterns, inquiry))) {
      return new Finding(
        false,
        () =>
          scope.statements
            .filter((statement) => isBeside(statement, patterns, inquiry))
            .flatMap(({ nodes }) => nodes.map((node) => placeOf(device.record, node))),
        undefined,
        unreadHere(inquiry),
      )
    }
    return new Finding(inquiry.mayHideLines ? 'unknown' : true, () => inquiry.whole(), incomplete(inquiry))
  }
}

function isBeside(statement: Statement, patterns: readonly Pattern[], { device, scope }: EvaluationContext): boolean {
  const words = device.opaque.wordsOf(statement, scope)
  return !statement.negated && !patterns.some((pattern) => matchPattern(pattern, words) !== null)
}

function askCollect({ of, take, as }: { of: string | string[]; take: string; as: string }): CompiledCondition {
  const lines = new LineMatcher([of].flat())
  return (inquiry) => {
    inquiry.names[as] = lines.all(inquiry).map(({ names }) => String(names[take]))
    return new Finding(true, NOWHERE, undefined, unreadLike(inquiry, lines.patterns))
  }
}

/** Compares what lines name with a list value: as equal sets, or as lying within it. */
function askSet({
  of,
  take,
  equals,
  within,
}: {
  of: string | string[]
  take: string
  equals?: string
  within?: string
}): CompiledCondition {
  const lines = new LineMatcher([of].flat())
  const listName = equals ?? within
  if (listName === undefined) throw new Error(`Condition "set": give "equals" or "within"`)
  return (inquiry) => {
    const wanted = (inquiry.names[listName] as unknown[] | undefined)?.map(String) ?? []
    const wantedKeys = new Set(wanted.map(canonicalHost))
    const found = lines.all(inquiry)
    const named = found.map(({ names }) => String(names[take]))
    const namedKeys = new Set(named.map(canonicalHost))
    const extra = named.filter((host) => !wantedKeys.has(canonicalHost(host)))
    const missing = equals === undefined ? [] : wanted.filter((host) => !namedKeys.has(canonicalHost(host)))
    Object.assign(inquiry.names, {
      missing,
      extra: [...new Map(extra.map((host) => [canonicalHost(host), host])).values()],
    })
    const holds = missing.length === 0 && extra.length === 0
    const unsure = inquiry.mayHideLines && extra.length === 0
    return new Finding(
      unsure ? 'unknown' : holds,
      () =>
        missing.length > 0 || found.length === 0
          ? [...placesOf(inquiry, found), ...inquiry.whole()]
          : placesOf(inquiry, found),
      { missing, extra, ...(unsure ? incomplete(inquiry) : {}) },
      unreadLike(inquiry, lines.patterns),
    )
  }
}

function listNamed(inquiry: EvaluationContext, name: string, family: 'ipv4' | 'ipv6'): AccessList | undefined {
  return inquiry.device.accessLists().get(`${family} ${name}`)
}

function askList({
  name,
  family,
  is,
}: {
  name: string
  family: 'ipv4' | 'ipv6'
  is: 'missing' | 'empty' | 'open'
}): CompiledCondition {
  const template = compileTemplate(name)
  return (inquiry) => {
    const { device } = inquiry
    const list = listNamed(inquiry, template.render(inquiry.names), family)
    const hidden = device.held.tree.faults.length > 0
    if (!list)
      return new Finding(
        hidden ? 'unknown' : is === 'missing',
        () => searched(device.record, device.held.tree, []),
        incomplete(inquiry),
      )
    if (is === 'missing') return new Finding(false, () => linesOf(device, list))
    if (is === 'empty')
      return new Finding(list.entries.length === 0 ? (hidden ? 'unknown' : true) : false, () => linesOf(device, list))
    const open = openToAll(list)
    const by = open.by?.node
    return new Finding(
      open.answer === 'undecided' ? 'unknown' : open.answer === 'some',
      () => (by ? [placeOf(device.record, by)] : linesOf(device, list)),
      { why: open.why ?? undefined },
    )
  }
}

function linesOf(device: JudgedDevice, list: AccessList): Place[] {
  return list.nodes.map((node) => placeOf(device.record, node))
}

/** Whether a list lets in packets from any of some prefixes; binds `prefixes`, those that get in. */
function askAdmits({ list: name, sources }: { list: string; sources: string }): CompiledCondition {
  const template = compileTemplate(name)
  return (inquiry) => {
    const { device, names } = inquiry
    const list = listNamed(inquiry, template.render(names), 'ipv4')
    if (!list) return new Finding(true, () => searched(device.record, device.held.tree, []))
    const entering: string[] = []
    const places: Place[] = []
    let undecided: string | null = null
    for (const text of (names[sources] as unknown[]).map(String)) {
      const wanted = sourcesIn(text)
      if (!wanted) continue
      const admission = admits(list, wanted)
      if (admission.answer === 'undecided') undecided ??= `${text}: ${admission.why ?? ''}`
      if (admission.answer !== 'some' || !admission.by) continue
      entering.push(text)
      places.push(placeOf(device.record, admission.by.node))
    }
    names['prefixes'] = entering
    if (entering.length > 0) return new Finding(true, () => places, { extra: entering })
    return new Finding(undecided === null ? false : 'unknown', () => linesOf(device, list), {
      why: undecided ?? undefined,
    })
  }
}

const packetsFrom = new Recent<Box>(1_000)

/** All packets from an IPv4 prefix; null for any other text. Every device is asked about the same few. */
function sourcesIn(text: string): Box | null {
  const known = packetsFrom.get(text)
  if (known) return known
  const prefix = parsePrefix(text)
  if (prefix?.family !== 'ipv4') return null
  const box = fromSources(prefix)
  packetsFrom.set(text, box)
  return box
}

function askBody(sources: readonly string[], pattern: string): CompiledCondition {
  const lines = new LineMatcher(sources)
  const wanted = userPattern(pattern)
  return (inquiry) => {
    const nodes = lines.all(inquiry).flatMap(({ statement }) => statement.nodes.slice(-1))
    const doubts = unreadLike(inquiry, lines.patterns)
    if (nodes.length === 0)
      return new Finding(inquiry.mayHideLines ? 'unknown' : false, () => inquiry.whole(), incomplete(inquiry), doubts)
    return new Finding(
      nodes.some((node) => wanted.test(node.body ?? '')),
      () => nodes.map((node) => placeOf(inquiry.device.record, node)),
      undefined,
      doubts,
    )
  }
}

/** What differs between the running configuration and another one: `missing` there, `extra` there. */
function askDiffers(kind: string): CompiledCondition {
  return ({ device, names }) => {
    const other = device.others.get(kind)
    if (!other) return new Finding('unknown', NOWHERE, { why: `there is no record "${kind}"` })
    // A listing with defaults differs from every other in all of them: the ordinary one is compared.
    const own = (device.listing === 'full' ? device.others.get('ordinary') : undefined) ?? device
    const fault = own.held.tree.faults[0] ?? other.held.tree.faults[0]
    if (fault) return new Finding('unknown', NOWHERE, { why: `one of the records is not whole (${fault.reason})` })
    const differences = diffScopes(own.held.scope, other.held.scope, device.held.dialect)
    const [missing, extra] = [pathsOn(differences, 'a'), pathsOn(differences, 'b')]
    Object.assign(names, { missing, extra })
    if (differences.length === 0) return new Finding(false, () => searched(own.record, own.held.tree, []))
    return new Finding(
      true,
      () =>
        differences.flatMap(({ side, nodes }) =>
          nodes.map((node) => placeOf(side === 'a' ? own.record : other.record, node)),
        ),
      { missing, extra },
    )
  }
}

function pathsOn(differences: readonly Difference[], side: 'a' | 'b'): string[] {
  return differences.filter((difference) => difference.side === side).map(({ path }) => path.join(' › '))
}
