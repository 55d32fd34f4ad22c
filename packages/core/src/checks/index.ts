/** Checks on change: what must hold of the rows of two sides. */
export {
  ROW_CODES,
  checked,
  rowWords,
  type CheckOutcome,
  type CheckResult,
  type CheckRow,
  type RowCode,
} from './check.ts'
export { checkDevices, checkNetwork, readChecks, selectedChecks, type NetworkRows } from './run.ts'
export { rowsOf, type TableDoubt, type TableRow, type TableRows } from './rows.ts'
export {
  CHECK_TABLES,
  CHECK_TERMS,
  NETWORK_TABLES,
  checkSchema,
  checkSetSchema,
  checksFileSchema,
  type Check,
  type CheckSet,
  type CheckTerm,
  type ChecksFile,
} from './schema.ts'
