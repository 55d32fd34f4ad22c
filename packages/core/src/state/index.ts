/** Outputs of commands as one state of the device. */
export { readSyslog, writeSyslog, type SyslogMessage } from './syslog.ts'
export { KINDS_OF_STATE } from './kinds.ts'
export { type LineTemplate, type OutputForm } from './lines.ts'
export { INTERFACE_LINES, beginInterface, namedInterface, upDown } from './outputs.ts'
export { readOutputs, type StateReading } from './reading.ts'
export { textOfRecord, type ReadConfiguration, type ReadRecord } from './record.ts'
export { addHop, beginRoute } from './route-lines.ts'
export { deviceStateSchema, type DeviceState } from './schema.ts'
