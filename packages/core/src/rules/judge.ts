import type { CompiledCondition } from './compiled-condition.ts'
import { withClock } from './clock.ts'
import { compileCondition } from './conditions.ts'
import type { EstateQuestion } from './estate-question.ts'
import { needsOfRule, type RuleNeeds } from './needs.ts'
import { Finding, MAX_PLACES, allOf, placeOf, tidy, type CitedRange } from './evidence.ts'
import { incomplete } from './incomplete.ts'
import { isUnderstood } from './doubt.ts'
import { compileTemplate, type Template } from './expression.ts'
import { EvaluationContext, maskedIn } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'
import { placesOf } from './model-fields.ts'
import { namesAround } from './names.ts'
import { compileRemedy, joined, type CompiledRemedy } from './remedy.ts'
import { compileScope, type ScopeAnswer } from './scope.ts'
import { compileSubjects, compileUnseen, type Subject, type Unseen } from './subjects.ts'
import { combine, type Judgement } from './verdict.ts'
import type { Outcome, Severity } from './outcome.ts'
import type { RuleBody, RuleSource } from './schema.ts'

export interface Rule {
  readonly source: RuleSource
  /** @param values effective values of the benchmark; whole numbers as bigint, unset ones as null */
  judge(device: JudgedDevice, values: Readonly<Record<string, unknown>>): RawJudgement
  /** Whether the rule applies to a device, and the term that decides. */
  inScope(device: JudgedDevice, values: Readonly<Record<string, unknown>>): ScopeAnswer
  /** What has to be at hand before it is judged. */
  readonly needs: RuleNeeds
  /** What has to be asked of all devices before one is judged. */
  readonly estateQuestions: readonly EstateQuestion[]
}

/** A judgement that cites places and whose texts still hold secrets. */
export interface RawJudgement extends Omit<Judgement, 'exhibits'> {
  readonly places: readonly CitedRange[]
}

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

interface Decision {
  readonly outcome: Outcome
  readonly branch: Branch | null
  readonly note: string
  readonly finding: Finding
  readonly subject: Subject
  /** Set where an unparsed line keeps the decision from being sure. */
  readonly unread?: true
}

/** One body of a rule, ready to judge devices of its dialects. */
interface Body {
  readonly source: RuleBody
  readonly branches: readonly Branch[]
  readonly subjectsOf: (context: EvaluationContext) => Subject[]
  readonly unseen: Unseen
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
            note: `Out of scope of this rule: ${term}.`,
          }
        if (inside === 'unknown')
          return {
            ...failed(source, ''),
            outcome: 'unknown',
            branch: 'scope',
            note: `It is unknown whether this device is in scope: ${why ?? term}.`,
            missing: [term],
          }
        const body = bodies.get(device.effective.dialect.id)?.()
        if (!body) return notAsked(source, device)
        try {
          return withClock(device.clock, () => judge(source, body, device, values))
        } catch (error) {
          // What an expression needs may stand in the lines that are missing.
          const hidden = incomplete({ device })
          if (hidden)
            return {
              ...failed(source, ''),
              outcome: 'unknown',
              branch: 'not-whole',
              note: `Cannot be decided: ${hidden.why}.`,
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

/** The rule has no body for the dialect of the device: not checked. */
function notAsked(source: RuleSource, device: JudgedDevice): RawJudgement {
  return {
    ...failed(source, ''),
    outcome: 'notchecked',
    branch: 'other-dialect',
    note: `This rule does not cover the dialect "${device.effective.dialect.id}" yet.`,
  }
}

/** An error in a rule costs its own answer for this device, and nothing else. */
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
      ? `All parsed lines pass. ${UNPARSED}`
      : `The captured part passes, but the record is incomplete: ${device.effective.tree.faults[0]?.reason ?? ''}.`
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
    remedy:
      outcome === 'fail' || outcome === 'unknown'
        ? joined(same.flatMap(({ branch, subject }) => (branch?.remedy ? [branch.remedy(subject)] : [])))
        : null,
  }
}

function distinct(decisions: readonly Decision[], side: 'missing' | 'extra'): string[] {
  return [...new Set(decisions.flatMap(({ finding }) => finding.reasons[side] ?? []))]
}

function judgeNothing(rule: RuleSource, source: RuleBody, top: EvaluationContext, unreadIn: Unseen): RawJudgement {
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
      ? 'Nothing to judge was found, but the record is incomplete: ' +
        `${top.device.effective.tree.faults[0]?.reason ?? ''}.`
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
  const { context, doubt: unsure } = subject
  if (unsure) {
    const note = `It is not known whether the rule applies to it: ${whyUnknown(unsure)}.`
    return { outcome: 'unknown', branch: null, note, finding: unsure, subject }
  }
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
): readonly CitedRange[] {
  if (isUnderstood(device)) return []
  const all = [...finding.doubts()]
  for (const other of others) if (other.branch.outcome !== branch.outcome) all.push(...other.finding.doubts())
  return all.length === 0 ? all : tidy(all, MAX_PLACES)
}

/** All that was parsed is in order; an unparsed line may say otherwise. */
function unreadDecision(note: string, unread: readonly CitedRange[], subject: Subject): Decision {
  const finding = new Finding('unknown', () => unread)
  return { outcome: 'unknown', branch: null, note: `${note} ${UNPARSED}`, finding, subject, unread: true }
}

const UNPARSED = 'An unparsed line could change this verdict.'

const OTHERWISE = new Finding(true, () => [])

function whyUnknown({ reasons }: Finding): string {
  return reasons.why ?? 'the deciding record was not captured'
}

function undecided(branch: Branch, finding: Finding, subject: Subject): Decision {
  return {
    outcome: 'unknown',
    branch: null,
    note: `Cannot be decided (branch "${branch.id}"): ${whyUnknown(finding)}.`,
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
  if (same === 1) return `${deciding.note} (1 of ${all} subjects)`
  return same === all && deciding.outcome === 'pass'
    ? `${deciding.note} (all ${all} pass)`
    : `${deciding.note} (${same} of ${all} subjects)`
}

function placesFor(decisions: readonly Decision[], top: EvaluationContext): CitedRange[] {
  const places: CitedRange[] = []
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
