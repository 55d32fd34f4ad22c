/** Files to devices with records, and refusals with reasons. */
export { LIMITS } from './limits.ts'
export {
  deviceFactsSchema,
  readRecord,
  readSnapshot,
  type DeviceFacts,
  type DeviceRecord,
  type RecordKind,
  type Refusal,
  type Snapshot,
  type SnapshotDevice,
  type SnapshotFile,
  type TimeSource,
} from './snapshot.ts'
export { deviceFolder, safeFileName } from './file-name.ts'
export { packSnapshot, type PackedRecord, type PackedSnapshot } from './pack.ts'
