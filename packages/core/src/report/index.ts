/** The evidence report and its writers. */
export {
  answerCounts,
  answerWords,
  assess,
  citing,
  reasonWords,
  type AnswerReason,
  type Assessed,
  type AssessedRequirement,
  type Assessment,
} from './assessment.ts'
export { FORMULA } from '../syntax/index.ts'
export {
  comparisonHtml,
  comparisonMarkdown,
  comparisonText,
  hasObjection,
  type ComparedChecks,
  type ComparedDevice,
  type ComparedFlow,
  type ComparisonDocument,
} from './comparison.ts'
export { writeCsv } from './csv.ts'
export type { ReportFormat, ReportParts } from './format.ts'
export { REPORT_FORMATS } from './formats.ts'
export { esc } from './html-parts.ts'
export { writeHtml } from './html.ts'
export { DEFAULT_LANGUAGE, textsOf, type ReportLanguage, type ReportText, type Say } from './messages/index.ts'
export { reportBlocks, type Block } from './blocks.ts'
export { COUNTED_OUTCOMES, pageWords } from './phrases.ts'
export { writeMarkdown } from './markdown.ts'
export { narrowed, type ReportLimit } from './narrowed.ts'
export {
  findingWords,
  makeReport,
  type Finding,
  type Report,
  type ReportAbout,
  type ReportCover,
  type RequirementLine,
  type RuleLine,
} from './report.ts'
export { AUDIENCES, AUDIENCE_IDS, SECTION_IDS, type Audience, type SectionId } from './sections.ts'
export { barsSvg, summaryWords, type AuditBefore, type Summary, type SummaryLine } from './summary.ts'
export { requirementScore, scoreWords, type RequirementScore } from './requirement-score.ts'
export { writeSarif } from './sarif.ts'
export {
  remediationItems,
  writeChangeLogCsv,
  writeChangeLogMarkdown,
  type RemediationItem,
  type RemediationMark,
} from './remediation.ts'
