/** Judging whole devices and snapshots; the document that comes of it. */
export {
  AuditedDevice,
  asksAcross,
  auditDevice,
  estateAnswersOf,
  joinAnswers,
  type AuditContext,
  type EstateDevice,
} from './audited-device.ts'
export {
  attestedIn,
  auditSnapshot,
  countVerdicts,
  scoresIn,
  tailoredIn,
  widestProfile,
  type AuditOptions,
} from './audit.ts'
export {
  auditDocumentSchema,
  countsSchema,
  scoreSchema,
  exhibitSchema,
  noCounts,
  isFinding,
  remedyText,
  remedySchema,
  citingVerdictSchema,
  verdictSchema,
  type AuditDocument,
  type Counts,
  type ExpectedVerdict,
  type Remedy,
  type Score,
  type Citation,
  type CitingVerdict,
  type Verdict,
} from './document.ts'
export { lackingExamples, recordsOf, tryExamples, type ExampleTrial } from './examples.ts'
export { scoreOf } from './score.ts'
export { applyWaivers, waiverSchema, type Waivable, type Waiver } from './waivers.ts'
export { EXPECTATIONS, expectedVerdicts } from './expected.ts'
export { elsewhereIn, withElsewhere, type ElsewhereRecord } from './elsewhere.ts'
export { quoted } from './verdict.ts'
export {
  DOCKET_FORMULA,
  EXPOSURES,
  EXPOSURE_WEIGHTS,
  SEVERITY_WEIGHTS,
  docketOf,
  type DocketItem,
  type Exposure,
  type OpenFinding,
} from './docket.ts'
