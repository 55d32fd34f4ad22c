/** Judging whole devices and snapshots; the document that comes of it. */
export { auditDevice, auditSnapshot, countVerdicts, prepare, widestProfile, type Bench, type Choice } from './audit.ts'
export { auditDocumentSchema, countsSchema, exhibitSchema, noCounts, remedySchema, verdictSchema, type AuditDocument, type Counts, type Remedy, type Verdict } from './document.ts'
