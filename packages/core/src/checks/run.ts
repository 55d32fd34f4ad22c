import type { DeviceAnalysis } from '../analysis/index.ts'
import { CoreError, readBeside } from '../syntax/index.ts'
import { checked, type CheckResult } from './check.ts'
import { rowsOf, type TableRows } from './rows.ts'
import { NETWORK_TABLES, checksFileSchema, type Check, type ChecksFile, type CheckSet } from './schema.ts'

/** Reads `checks.yaml`. @throws CompanionFileError */
export function readChecks(file: { readonly path: string; readonly text: string }): ChecksFile {
  return readBeside(file, checksFileSchema)
}

/**
 * The checks of a set.
 * @throws CoreError that names a check that there is not
 */
export function selectedChecks(set: CheckSet, checks: readonly Check[]): Check[] {
  return set.checks.map((id) => {
    const found = checks.find((check) => check.id === id)
    if (!found) throw new CoreError('companion-file', `the set "${set.id}" names a check "${id}" that there is not`)
    return found
  })
}

/** Rows of a table of the network as a whole, by its name, on both sides. */
export type NetworkRows = Readonly<Record<string, { readonly a: TableRows; readonly b: TableRows }>>

const ofNetwork: readonly string[] = NETWORK_TABLES

/** The checks that are about devices, over two sides of one. */
export function checkDevices(checks: readonly Check[], a: DeviceAnalysis, b: DeviceAnalysis): CheckResult[] {
  return checks
    .filter(({ of }) => !ofNetwork.includes(of))
    .map((check) => checked(check, rowsOf(a, check.of), rowsOf(b, check.of)))
}

/** The checks that are about the network as a whole; those of which no rows were brought are not checked. */
export function checkNetwork(checks: readonly Check[], rows: NetworkRows): CheckResult[] {
  const none: TableRows = { rows: [], doubt: { code: 'not-captured', lines: [] } }
  return checks
    .filter(({ of }) => ofNetwork.includes(of))
    .map((check) => checked(check, rows[check.of]?.a ?? none, rows[check.of]?.b ?? none))
}
