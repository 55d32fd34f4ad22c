/** Files to devices with records, and refusals with reasons. */
export { LIMITS } from './limits.ts'
export {
  readRecord,
  readSnapshot,
  type DeviceRecord,
  type RecordKind,
  type Snapshot,
  type SnapshotDevice,
  type TimeSource,
} from './snapshot.ts'
export { deviceFactsSchema, type DeviceFacts } from './device-facts.ts'
export { type Refusal, type SnapshotFile } from './file.ts'
export { deviceFolder, safeFileName } from './file-name.ts'
export { packSnapshot, recordPath, snapshotFiles, type PackedRecord, type PackedSnapshot } from './pack.ts'
export { lastChangeIn, type LastChange } from './last-change.ts'
