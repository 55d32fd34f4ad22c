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
  unreadByRecord,
} from './device.ts'
