/** All records of one device together. */
export {
  countedOf,
  isPartOfModel,
  judgedOf,
  judgedRecord,
  linesOf,
  modelOfDevice,
  stateOf,
  stateOfDevice,
} from './device.ts'
export { DeviceAnalysis, analysisOf } from './device-analysis.ts'
