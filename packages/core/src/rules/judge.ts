import { typedWord } from '../dialects/index.ts'
import { Scope, type ConfigNode, type Statement } from '../syntax/index.ts'
import { statementText } from '../compare/index.ts'
import type { CompiledCondition } from './compiled-condition.ts'
import { blocksAlong, doubtsAlong } from './blocks.ts'
import { withClock } from './clock.ts'
import { compileCondition, type Condition } from './conditions.ts'
import type { EstateQuestion } from './estate-question.ts'
import { needsOfRule, type RuleNeeds } from './needs.ts'
import { Finding, allOf, placeOf, tidy, type Place } from './evidence.ts'
import { isUnderstood, unreadAbout, unreadLike } from './doubt.ts'
import { compileTemplate, type Template } from './expression.ts'
import { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice, Names } from './judged.ts'
import { LineMatcher, type LineMatch } from './line-matcher.ts'
import { compileEntryExpression, compileModelExpression, pathsIn, placesOf } from './model-fields.ts'
import { namesAround, namesWithin } from './names.ts'
import { compileScope, type ScopeAnswer } from './scope.ts'
import { combine, type Edit, type Judgement, type RemedyProposal } from './verdict.ts'
import type { Outcome, RemedySource, RuleBody, RuleSource, Severity } from './schema.ts'

export interface Rule {
  readonly source: RuleSource
  /** @param values effective values of the benchmark; whole numbers as bigint, unset ones as null */
  judge(device: JudgedDevice, values: Readonly<Record<string, unknown>>): RawJudgement
  /** Which devices it speaks of, and the term that decides. */
  inScope(device: JudgedDevice, values: Readonly<Record<string, unknown>>): ScopeAnswer
  /** What has to be at hand before it is judged. */
  readonly needs: RuleNeeds
  /** What has to be asked of all devices before one is judged. */
  readonly estateQuestions: readonly EstateQuestion[]
}

/** A judgement whose evidence is places, and whose words still hold real secrets. */
export interface RawJudgement extends Omit<Judgement, 'exhibits'> {
  readonly places: readonly Place[]
}

/** More lines than a person reads; the count of subjects and missing lines is never cut. */
const MAX_PLACES = 60

interface Branch {
  readonly id: string
  readonly ask: CompiledCondition | null
  readonly outcome: Outcome
  readonly severity: Severity
  readonly note: Template
  readonly remedy: CompiledRemedy | null
  /** The same branch for listings that show defaults. */
  readonly full: Branch | null
}

interface Subject {
  readonly name: string
  readonly context: EvaluationContext
  /** The lines that it is made of; none where the device itself is judged. */
  readonly nodes: readonly ConfigNode[]
  /** Path of the entry of the model that it is, if it is one. */
  readonly path?: string
}

interface Decision {
  readonly outcome: Outcome
  readonly branch: Branch | null
  readonly note: string
  readonly finding: Finding
  readonly subject: Subject
  /** Whether lines that nobody understood keep it from being sure. */
  readonly unread?: true
}

/** One body of a rule, ready to judge devices of its dialects. */
interface Body {
  readonly source: RuleBody
  readonly branches: readonly Branch[]
  readonly subjectsOf: (context: EvaluationContext) => Subject[]
  /** Unread lines that may be subjects of which nobody knows. */
  readonly unseen: (context: EvaluationContext) => readonly Place[]
}

/**
 * @param when bodies are compiled: all of them at once, so that what is wrong is told, or each when a device of its
 * dialect is first judged, for rules that are known to compile
 * @throws Error that names the rule and what is wrong with it
 */
export function compileRule(source: RuleSource, when: 'at once' | 'when asked' = 'at once'): Rule {
  try {
    const bodies = new Map<string, () => Body>()
    for (const body of [source, ...source.also]) {
      let compiled: Body | null = when === 'at once' ? compileBody(source, body) : null
      for (const id of body.dialects) bodies.set(id, () => (compiled ??= compileBody(source, body)))
    }
    const scope = source.scope === undefined ? null : compileScope(source.scope)
    const inScope = (device: JudgedDevice, values: Readonly<Record<string, unknown>>): ScopeAnswer =>
      scope ? withClock(device.clock, () => scope(namesAround(device, values))) : EVERYWHERE
    const needs = needsOfRule(source)
    return {
      source,
      inScope,
      needs,
      estateQuestions: needs.questions,
      judge: (device, values) => {
        const { inside, term, why } = inScope(device, values)
        if (inside === false)
          return {
            ...failed(source, ''),
            outcome: 'notapplicable',
            branch: 'out-of-scope',
            note: `Not in the scope of this rule: ${term}.`,
          }
        if (inside === 'unknown')
          return {
            ...failed(source, ''),
            outcome: 'unknown',
            branch: 'scope',
            note: `Whether the rule speaks of this device is not known: ${why ?? term}.`,
            missing: [term],
          }
        const body = bodies.get(device.effective.dialect.id)?.()
        if (!body) return notAsked(source, device)
        try {
          return withClock(device.clock, () => judge(source, body, device, values))
        } catch (error) {
          const fault = device.effective.tree.faults[0]
          // What an expression needs may stand in the lines that are missing.
          if (fault)
            return {
              ...failed(source, ''),
              outcome: 'unknown',
              branch: 'not-whole',
              note: `Cannot be decided: the record is not whole (line ${fault.line}: ${fault.reason}).`,
            }
          return failed(source, error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error))
        }
      },
    }
  } catch (error) {
    throw new Error(`Rule "${source.id}": ${error instanceof Error ? error.message : String(error)}`)
  }
}

const EVERYWHERE: ScopeAnswer = { inside: true, term: '', why: null }

function compileBody(rule: RuleSource, source: RuleBody): Body {
  const fallback = source.remedy ? compileRemedy(source.remedy) : null
  const branches = source.decide.map((branch): Branch => {
    const own: Branch = {
      id: branch.id,
      ask: branch.when === undefined ? null : compileCondition(branch.when),
      outcome: branch.outcome,
      severity: branch.severity ?? rule.severity,
      note: compileTemplate(branch.note),
      remedy: branch.remedy ? compileRemedy(branch.remedy) : fallback,
      full: null,
    }
    return branch.full
      ? { ...own, full: { ...own, outcome: branch.full.outcome, note: compileTemplate(branch.full.note) } }
      : own
  })
  return { source, branches, subjectsOf: compileSubjects(source), unseen: compileUnseen(source) }
}

/** The rule does not speak of the device's dialect: nobody has looked. */
function notAsked(source: RuleSource, device: JudgedDevice): RawJudgement {
  return {
    ...failed(source, ''),
    outcome: 'notchecked',
    branch: 'other-dialect',
    note: `This rule does not speak of the dialect "${device.effective.dialect.id}" yet.`,
  }
}

/** A rule that errs loses nothing but its own answer for this device. */
function failed(source: RuleSource, reason: string): RawJudgement {
  return {
    rule: source.id,
    outcome: 'error',
    severity: source.severity,
    branch: 'error',
    note: `The rule could not be evaluated: ${reason}`,
    subjects: [],
    places: [],
    missing: [],
    extra: [],
    remedy: null,
  }
}

function judge(
  rule: RuleSource,
  { source, branches, subjectsOf, unseen: unreadIn }: Body,
  device: JudgedDevice,
  values: Readonly<Record<string, unknown>>,
): RawJudgement {
  const top = new EvaluationContext(device, device.effective.scope, namesAround(device, values))
  const subjects = subjectsOf(top)
  if (source.each && subjects.length === 0) return judgeNothing(rule, source, top, unreadIn)
  const decisions = subjects.map((subject) => decide(branches, subject))
  // Where lines may be hidden, there may be subjects nobody saw: they are not known to be in order.
  const unseen = source.each !== undefined && top.mayHideLines
  const before = combine([...decisions.map((decision) => decision.outcome), ...(unseen ? (['unknown'] as const) : [])])
  const hidden = before === 'pass' || before === 'notapplicable' ? unreadIn(top) : []
  const outcome = hidden.length > 0 ? 'unknown' : before
  const deciding = decisions.find((decision) => decision.outcome === outcome)
  const same = decisions.filter((decision) => decision.outcome === outcome)
  const note = deciding
    ? noteFor(source, deciding, same.length, decisions.length)
    : hidden.length > 0
      ? `All that was parsed is in order. ${UNPARSED}`
      : `What was captured is in order, but the record is not whole: ${device.effective.tree.faults[0]?.reason ?? ''}.`
  return {
    rule: rule.id,
    outcome,
    severity: deciding?.branch?.severity ?? rule.severity,
    branch:
      deciding?.branch?.id ??
      (deciding ? (deciding.unread ? 'unparsed' : 'undecided') : hidden.length > 0 ? 'unparsed' : 'not-whole'),
    note,
    subjects: source.each
      ? decisions.map((decision) => ({ name: decision.subject.name, outcome: decision.outcome, note: decision.note }))
      : [],
    places: hidden.length > 0 ? [...hidden] : placesFor(same.length > 0 ? same : decisions, top),
    missing: distinct(same, 'missing'),
    extra: distinct(same, 'extra'),
    remedy: outcome === 'fail' || outcome === 'unknown' ? remedyFor(same) : null,
  }
}

function distinct(decisions: readonly Decision[], side: 'missing' | 'extra'): string[] {
  return [...new Set(decisions.flatMap(({ finding }) => finding.reasons[side] ?? []))]
}

function judgeNothing(
  rule: RuleSource,
  source: RuleBody,
  top: EvaluationContext,
  unreadIn: Body['unseen'],
): RawJudgement {
  const nothing = source.nothing ?? { outcome: 'notapplicable' as const, note: 'There is nothing to judge.' }
  const hidden = top.mayHideLines
  const unread = !hidden && (nothing.outcome === 'pass' || nothing.outcome === 'notapplicable') ? unreadIn(top) : []
  if (unread.length > 0)
    return {
      ...failed(rule, ''),
      outcome: 'unknown',
      branch: 'unparsed',
      note: `${nothing.note} ${UNPARSED}`,
      places: unread,
    }
  return {
    rule: rule.id,
    outcome: hidden ? 'unknown' : nothing.outcome,
    severity: rule.severity,
    branch: hidden ? 'not-whole' : 'nothing',
    note: hidden
      ? `Nothing to judge was found, but the record is not whole: ${top.device.effective.tree.faults[0]?.reason ?? ''}.`
      : nothing.note,
    subjects: [],
    places: top.whole(),
    missing: [],
    extra: [],
    remedy: null,
  }
}

/**
 * The first branch that holds decides. A branch that cannot be decided leaves every later outcome possible: if all
 * that remain possible agree, that is the outcome, else it is unknown.
 */
function decide(branches: readonly Branch[], subject: Subject): Decision {
  const { context } = subject
  const open: { branch: Branch; finding: Finding }[] = []
  const refuted: Finding[] = []
  const others: { branch: Branch; finding: Finding }[] = []
  for (const stated of branches) {
    const branch = (context.device.listing === 'full' ? stated.full : null) ?? stated
    const finding = branch.ask ? branch.ask(context) : OTHERWISE
    if (finding.truth === false) refuted.push(finding)
    if (finding.truth === false) others.push({ branch, finding })
    if (finding.truth === 'unknown') open.push({ branch, finding })
    if (finding.truth !== true) continue
    // What the last branch rests on is that none before it held.
    const restsOn = branch.ask === null ? mergeRefuted(refuted) : finding
    const doubt = open.find((other) => other.branch.outcome !== branch.outcome)
    if (doubt) return undecided(doubt.branch, doubt.finding, subject)
    const note = branch.note.render(context.names, maskedIn(context))
    const unread =
      branch.outcome === 'pass' || branch.outcome === 'notapplicable'
        ? doubtsAbout(branch, finding, others, context)
        : []
    if (unread.length > 0) return unreadDecision(note, unread, subject)
    return { outcome: branch.outcome, branch, note, finding: restsOn, subject }
  }
  throw new Error('no branch decided')
}

/** Unread lines that bear on what was found, or on a branch with another outcome that did not hold. */
function doubtsAbout(
  branch: Branch,
  finding: Finding,
  others: readonly { branch: Branch; finding: Finding }[],
  { device }: EvaluationContext,
): readonly Place[] {
  if (isUnderstood(device)) return []
  const all = [...finding.doubts()]
  for (const other of others) if (other.branch.outcome !== branch.outcome) all.push(...other.finding.doubts())
  return all.length === 0 ? all : tidy(all, MAX_PLACES)
}

/** What was understood is in order, but a line that was not may say otherwise. */
function unreadDecision(note: string, unread: readonly Place[], subject: Subject): Decision {
  const finding = new Finding('unknown', () => unread)
  return { outcome: 'unknown', branch: null, note: `${note} ${UNPARSED}`, finding, subject, unread: true }
}

const UNPARSED = 'An unparsed line could change this verdict.'

const OTHERWISE = new Finding(true, () => [])

function undecided(branch: Branch, finding: Finding, subject: Subject): Decision {
  return {
    outcome: 'unknown',
    branch: null,
    note: `Cannot be decided (branch "${branch.id}"): ${finding.reasons.why ?? 'what would decide it was not captured'}.`,
    finding,
    subject,
  }
}

function mergeRefuted(refuted: readonly Finding[]): Finding {
  return new Finding(true, () => refuted.flatMap((finding) => finding.places()), {
    missing: allOf(refuted, 'missing'),
    extra: allOf(refuted, 'extra'),
  })
}

function noteFor(source: RuleBody, deciding: Decision, same: number, all: number): string {
  if (!source.each || all === 1) return deciding.note
  if (same === 1) return `${deciding.note} (1 of ${all})`
  return same === all && deciding.outcome === 'pass'
    ? `${deciding.note} (all ${all} pass)`
    : `${deciding.note} (${same} of ${all} with this outcome)`
}

function placesFor(decisions: readonly Decision[], top: EvaluationContext): Place[] {
  const places: Place[] = []
  for (const { subject, branch, finding } of decisions) {
    // Many subjects of one outcome: the first ones that fill the list stand for all.
    if (places.length >= MAX_PLACES) break
    for (const node of subject.nodes) places.push(placeOf(top.device.record, node))
    if (subject.path !== undefined) places.push(...placesOf(top.device, subject.path))
    const found = finding.places()
    // A claim about lines rests on those lines; one about absence on what was searched.
    const present = branch?.ask === null ? found : found.filter((place) => !place.absent)
    places.push(...(present.length === 0 ? found : present))
  }
  return tidy(places.length > 0 ? places : top.whole(), MAX_PLACES)
}

/** Values that a line marks as secret must not reach a note. */
function maskedIn({ device, scope }: EvaluationContext): (value: string) => string {
  return (value) => (scope.secrets(device.effective.dialect).has(value) ? '‹secret›' : value)
}

function compileSubjects(source: RuleBody): (context: EvaluationContext) => Subject[] {
  const { each } = source
  if (!each) return (context) => [{ name: '', context, nodes: [] }]
  if ('block' in each) {
    const lines = new LineMatcher([each.block].flat())
    const along = blocksAlong([each.in ?? []].flat())
    const where = each.where === undefined ? null : compileCondition(each.where)
    return (context) => {
      const subjects: Subject[] = []
      for (const around of along(context)) {
        for (const { statement, names } of lines.all(around)) {
          if (!statement.scope) continue
          const own = new EvaluationContext(context.device, statement.scope, around.names, {
            ...names,
            block: statement.text,
          })
          if (where && where(own).truth === false) continue
          subjects.push({ name: statement.text, context: own, nodes: statement.nodes })
        }
      }
      return subjects
    }
  }
  if ('model' in each) return modelSubjects(each)
  const lines = new LineMatcher([each.lines].flat())
  return (context) => {
    const groups = new Map<string, Statement[]>()
    for (const { statement, names } of lines.all(context)) {
      const key = String(names[each.by])
      groups.set(key, [...(groups.get(key) ?? []), statement])
    }
    return [...groups].map(([key, statements]) => {
      const nodes = statements.flatMap((statement) => statement.nodes)
      const scope = new Scope(statements, nodes)
      return {
        name: `${each.by} ${key}`,
        context: new EvaluationContext(context.device, scope, context.names, { [each.by]: key }),
        nodes,
      }
    })
  }
}

/** Unread lines that may be, or belong to, subjects that nobody knows of. */
function compileUnseen(body: RuleBody): Body['unseen'] {
  const look = lookForUnseen(body)
  return (context) => (isUnderstood(context.device) ? [] : look(context))
}

function lookForUnseen({ each }: RuleBody): Body['unseen'] {
  if (!each) return () => []
  if ('model' in each) {
    const paths = [
      each.model,
      ...(each.where === undefined ? [] : pathsIn(each.where, { paths: { [each.as]: each.model } })),
    ]
    return (context) => tidy(unreadAbout(context.device, paths)(), MAX_PLACES)
  }
  if ('block' in each) {
    const along = doubtsAlong([each.in ?? [], each.block].flat())
    const where = each.where === undefined ? null : compileCondition(each.where)
    const lines = new LineMatcher([each.block].flat())
    const around = blocksAlong([each.in ?? []].flat())
    return (context) => {
      // A block that was left out may be one after all.
      const left =
        where === null
          ? []
          : around(context).flatMap((at) =>
              lines
                .all(at)
                .flatMap(({ statement, names }) =>
                  statement.scope
                    ? [
                        where(
                          new EvaluationContext(context.device, statement.scope, at.names, {
                            ...names,
                            block: statement.text,
                          }),
                        ),
                      ]
                    : [],
                ),
            )
      return tidy(
        [...along(context).doubts(), ...left.flatMap((finding) => (finding.truth === false ? finding.doubts() : []))],
        MAX_PLACES,
      )
    }
  }
  const patterns = new LineMatcher([each.lines].flat()).patterns
  return (context) => tidy(unreadLike(context, patterns)(), MAX_PLACES)
}

function modelSubjects(each: {
  model: string
  as: string
  name: string
  where?: string | undefined
  having?: Condition | undefined
}): (context: EvaluationContext) => Subject[] {
  const nameOf = compileModelExpression(each.name)
  const isMeant = each.where === undefined ? null : compileEntryExpression(each.where, each.as)
  const where = each.where === undefined || isMeant ? null : compileModelExpression(each.where)
  const having = each.having === undefined ? null : compileCondition(each.having)
  return (context) => {
    return entriesAt(context.names, each.model).flatMap(({ entry, path }): Subject[] => {
      if (isMeant && isMeant(context.names, entry) !== true) return []
      const own = new EvaluationContext(
        context.device,
        context.scope,
        context.names,
        { [each.as]: entry },
        { [each.as]: path },
      )
      if (where && where(own) !== true) return []
      if (having && having(own).truth === false) return []
      const name = String(nameOf(own))
      own.names['block'] = name
      return [{ name, context: own, nodes: [], path }]
    })
  }
}

/** The entries of a list of the model; of a list within a list, those of all its entries. */
function entriesAt(names: Names, model: string): { readonly entry: unknown; readonly path: string }[] {
  let places: { entry: unknown; path: string }[] = [{ entry: names, path: '' }]
  for (const step of model.split('.')) {
    places = places.flatMap(({ entry, path }) => {
      const value: unknown = (entry as Readonly<Record<string, unknown>>)[step]
      const at = path === '' ? step : `${path}.${step}`
      return Array.isArray(value)
        ? value.map((one: unknown, i) => ({ entry: one, path: `${at}[${i}]` }))
        : [{ entry: value, path: at }]
    })
  }
  if (places.some(({ path }) => !path.endsWith(']'))) throw new Error(`${model} is no list of the device model`)
  return places
}

/** Resolves a remedy for a subject whose branch decided. */
type CompiledRemedy = (decision: Decision) => RemedyProposal

function compileRemedy(source: RemedySource): CompiledRemedy {
  if ('words' in source) {
    const words = compileTemplate(source.words)
    return ({ subject }) => ({ kind: 'words', words: words.render(subject.context.names, maskedIn(subject.context)) })
  }
  const edits = source.edits.map((edit) => ({
    remove: edit.remove.length === 0 ? null : new LineMatcher(edit.remove, edit.removeWhere),
    add: edit.add.map(compileTemplate),
    each: edit.each,
    device: edit.device,
    when: edit.when === undefined ? null : compileCondition(edit.when),
  }))
  return ({ subject }) => {
    const inherited: string[] = []
    const resolved = edits.flatMap((edit): Edit[] => {
      const own = subject.context
      // A copy: what one edit's condition binds is no matter of the next.
      const context = new EvaluationContext(own.device, edit.device ? own.device.effective.scope : own.scope, own.names)
      if (edit.when && edit.when(context).truth !== true) return []
      const found = edit.remove?.all(context) ?? []
      const { dialect } = own.device.effective
      for (const { statement } of found) {
        const group = statement.nodes.map((node) => dialect.inheritedFrom(node)).find((name) => name !== null)
        if (group !== undefined && group !== null)
          inherited.push(
            `"${statement.text}" is stated in the group "${group}" (line ${statement.nodes[0]?.line ?? 0}): take it out there, after looking at what else inherits from the group.`,
          )
      }
      const remove = found.map((match) => (dialect.typing.byPath ? headOf(match) : statementText(match.statement)))
      const items =
        edit.each === undefined
          ? [context.names]
          : ((context.names[edit.each] as unknown[] | undefined) ?? []).map((item) =>
              namesWithin(context.names, { item }),
            )
      const add = items.flatMap((names) => edit.add.map((template) => own.device.opaque.reveal(template.render(names))))
      const opener = context.scope.openers[0]
      const block =
        opener && context.scope !== context.device.effective.scope
          ? subject.name === ''
            ? opener.text
            : subject.name
          : null
      return remove.length + add.length > 0 ? [{ block, remove, add }] : []
    })
    if (inherited.length > 0) return { kind: 'words', words: inherited.join('\n') }
    return {
      kind: 'edits',
      edits: resolved,
      risk: source.risk,
      check: source.check,
      ...(source.unrestored === undefined ? {} : { unrestored: source.unrestored }),
    }
  }
}

/** Where a path is taken out as a whole, `...` at the end of a pattern stands for all that lies beneath. */
function headOf({ statement, pattern }: LineMatch): string {
  const open = pattern.tokens.at(-1)?.kind === 'gap'
  return open
    ? statement.command.words
        .slice(0, pattern.tokens.length - 1)
        .map(typedWord)
        .join(' ')
    : statement.text
}

function remedyFor(decisions: readonly Decision[]): RemedyProposal | null {
  const proposals = decisions.flatMap((decision) => (decision.branch?.remedy ? [decision.branch.remedy(decision)] : []))
  const words = proposals.flatMap((proposal) => (proposal.kind === 'words' ? [proposal.words] : []))
  if (words.length > 0) return { kind: 'words', words: [...new Set(words)].join('\n') }
  const plans = proposals.flatMap((proposal) => (proposal.kind === 'edits' ? [proposal] : []))
  const first = plans[0]
  if (!first || plans.every((plan) => plan.edits.length === 0)) return null
  const risk = plans.some((p) => p.risk === 'session')
    ? 'session'
    : plans.some((p) => p.risk === 'traffic')
      ? 'traffic'
      : 'none'
  const unrestored = [...new Set(plans.flatMap((plan) => plan.unrestored ?? []))]
  return {
    kind: 'edits',
    edits: withoutRepetition(plans.flatMap((plan) => plan.edits)),
    risk,
    check: [...new Set(plans.flatMap((plan) => plan.check))],
    ...(unrestored.length === 0 ? {} : { unrestored: unrestored.join('\n') }),
  }
}

/** What several subjects ask of the device as a whole is done once. */
function withoutRepetition(edits: readonly Edit[]): Edit[] {
  return [...new Map(edits.map((edit) => [JSON.stringify(edit), edit])).values()]
}
