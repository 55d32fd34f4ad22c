/** Comparing two of a kind: configurations, devices, states. */
export {
  counterGrowth,
  interfaceRates,
  sensorReadings,
  type SensorReading,
  uptimeSeconds,
  type CountedState,
  type CounterContext,
  type CounterGrowth,
  type InterfaceRates,
} from './rates.ts'
export { accessListChanges, joinedLines, type AccessListChange } from './access-list-changes.ts'
export { heaviestCommonSequence } from './common-sequence.ts'
export {
  compareDevices,
  isEqual,
  type ComparisonDoubt,
  type DeviceComparison,
  type RecordComparison,
  type ShownStatement,
} from './device-comparison.ts'
export { keyOfEntry, modelChanges, type CitedLines, type ModelChange } from './model-changes.ts'
export { LISTS, type ListRule } from './model-lists.ts'
export { Noise, STATE_NOISE, noiseFileSchema, readNoise } from './noise.ts'
export {
  isCaptured,
  keyOfRow,
  stateChanges,
  type NotCaptured,
  type StateChange,
  type StateSide,
} from './state-changes.ts'
export { STATE_TABLES, type StateTable } from './state-tables.ts'
export { diffScopes, statementChanges, statementText, type Difference, type StatementChange } from './statements.ts'
export { LISTINGS, withListing, type Listing } from './sides.ts'
export { unifiedDiff } from './unified.ts'
export { accessListWords, comparisonLines, doubtWords, modelWords, stateWords, statementWords } from './words.ts'
