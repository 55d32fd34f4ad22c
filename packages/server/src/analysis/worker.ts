/** What is asked of the records of one device, in the threads that keep devices read. */
export { auditTask } from '../audits/audit-task.ts'
export { checksTask, compareTask, referencesTask, sideTextsTask } from '../changes/compare-task.ts'
export { deriveTask } from '../changes/derive-task.ts'
export { reproduceTask } from '../evidence/pack-task.ts'
export { digestTask, filterTask } from '../estate/digest-task.ts'
export { readingTask } from '../snapshots/reading-task.ts'
