/** What is asked of the records of one device, in the threads that keep devices read. */
export { auditTask } from '../audits/audit-task.ts'
export { compareTask, sideTextsTask } from '../changes/compare-task.ts'
export { digestTask, filterTask } from '../estate/digest-task.ts'
export { readingTask } from '../snapshots/reading-task.ts'
