/** Judging whole devices and snapshots; the document that comes of it. */
export {
  AuditedDevice,
  asksAcross,
  attestedIn,
  auditDevice,
  auditOwn,
  auditSnapshot,
  countVerdicts,
  estateAnswersOf,
  joinAnswers,
  scoresIn,
  tailoredIn,
  widestProfile,
  type AuditContext,
  type AuditOptions,
  type EstateDevice,
} from './audit.ts'
export {
  auditDocumentSchema,
  countsSchema,
  exhibitSchema,
  noCounts,
  isFinding,
  remedySchema,
  verdictSchema,
  type AuditDocument,
  type Counts,
  type ExpectedVerdict,
  type Remedy,
  type Score,
  type Verdict,
} from './document.ts'
export { lackingExamples, recordsOf, tryExamples, type ExampleTrial } from './examples.ts'
export { SCORE_FORMULAS, scoreOf } from './score.ts'
export { applyWaivers, waiverSchema, type Waivable, type Waiver } from './waivers.ts'
export { EXPECTATIONS, expectedVerdicts } from './expected.ts'
export { elsewhereIn, withElsewhere, type ElsewhereRecord } from './elsewhere.ts'
