/**
 * The heart of Jury Box: pure computation over texts. No file, network, clock, database or interface.
 *
 * What most callers need; everything else is in the parts: `@jurybox/core/syntax`, `/model`, `/dialects`, `/headers`,
 * `/rules`, `/forwarding` and so on, a folder each. The README shows how to read a configuration, how to judge it, and
 * how to ask what a network does.
 */
export {
  CoreError,
  fingerprintWithKey,
  MaskedLines,
  maskWithKey,
  Scope,
  Statement,
  writeTree,
  type CoreErrorCode,
  type LocatedTree,
  type Mask,
} from './syntax/index.ts'
export { EffectiveConfig, modelOf, type DeviceModel, type ModelledDevice } from './model/index.ts'
export { detectDialect, dialectById, dialects, type Dialect } from './dialects/index.ts'
export { readSnapshot, type Snapshot, type SnapshotDevice, type SnapshotFile } from './snapshot/index.ts'
export { type Packet } from './headers/index.ts'
export { diffScopes } from './compare/index.ts'
export { prepare, readBenchmark, type Benchmark } from './benchmarks/index.ts'
export { auditDevice, auditSnapshot, type AuditDocument, type Verdict } from './audit/index.ts'
export { applyCommands, planFor, type Plan } from './remediation/index.ts'
export {
  answerTo,
  Network,
  networkOfSnapshot,
  reach,
  readExpectations,
  traceOf,
  Walker,
  type Expectation,
  type Fate,
  type Trace,
} from './forwarding/index.ts'
