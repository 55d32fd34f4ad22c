/** What lays office documents out, in a worker: a long report takes seconds. */
export { writeDocx } from './docx.ts'
export { writeXlsx } from './xlsx.ts'
