/** Fetches records from devices over SSH: the client side, without a server or a database. */
export { CURRENT_ALGORITHMS, WITH_DEPRECATED_ALGORITHMS } from './algorithms.ts'
export { collectDevice, type Collected, type Target } from './collect.ts'
export { LIMITS, type CollectedRecord, type CollectLimits, type Credential } from './limits.ts'
export { STEPS, STEP_TITLES, type Step } from './ladder.ts'
export { NetconfSession, operationOf } from './netconf.ts'
export { snmpRecord, type SnmpUser } from './snmp.ts'
export { answers, serviceRecord } from './services.ts'
export { cleaned } from './session.ts'
