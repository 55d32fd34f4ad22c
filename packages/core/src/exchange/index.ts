/** Open formats of others, in and out: OSCAL 1.1, XCCDF 1.2, and findings for registers. */
export { NAMESPACE, URL_SPACE, idOf, token, uuid5 } from './uuid.ts'
export { OSCAL_MODELS, OSCAL_VERSION, readOscal, writeOscal, type OscalModel, type OscalOf } from './oscal-schema.ts'
export {
  benchmarkCatalog,
  benchmarkComponents,
  fittingProfile,
  frameworkCatalog,
  readFittingProfile,
  readFrameworkCatalog,
} from './oscal-controls.ts'
export { assessmentPlan, assessmentResults, planOfAction, readPlanOfAction, readResults } from './oscal-results.ts'
export { XCCDF, readXccdf, ruleOfXccdf, writeXccdf, writeXccdfBenchmark } from './xccdf.ts'
export { readOtherResults, type OtherOutcome } from './other-results.ts'
export type { Told } from './told.ts'
export { writeGrc } from './grc.ts'
export { findingKey, type FindingMark, type FindingMarks } from './marks.ts'
