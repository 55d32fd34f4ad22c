/** Outputs of commands as one state of the device, and all records of a device together. */
export { readSyslog, writeSyslog, type SyslogMessage } from './syslog.ts'
export {
  countedOf,
  isPartOfModel,
  judgedOf,
  judgedRecord,
  linesOf,
  modelOfDevice,
  stateOfDevice,
  unreadByRecord,
  type ReadRecord,
} from './device.ts'
export { KINDS_OF_STATE } from './kinds.ts'
export { stateOf, type StateReading } from './reading.ts'
export { deviceStateSchema, type DeviceState } from './schema.ts'
