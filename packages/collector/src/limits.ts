import type { SnmpUser } from './snmp.ts'
import type { SessionLimits } from './session.ts'

/** A login. Its secrets leave the process for the device alone. */
export interface Credential {
  readonly id: string
  readonly user: string
  readonly password: string
  /** For more rights, where the device asks for another word. */
  readonly privileged?: string | undefined
  readonly privateKey?: string | undefined
  /** For facts and counters, where other words are asked for than for the login. */
  readonly snmp?: SnmpUser | undefined
}

export interface CollectLimits extends SessionLimits {
  /** Milliseconds for the connection and the handshake. */
  readonly connect: number
  /** Most credentials that are tried on one device: so that nobody is locked out. */
  readonly tries: number
  /** How often a device that broke off is asked again, each time after twice as long. */
  readonly again: number
  /** Milliseconds before it is asked again for the first time. */
  readonly backOff: number
}

export const LIMITS: CollectLimits = {
  connect: 15_000,
  silence: 20_000,
  answer: 60_000_000,
  tries: 3,
  again: 1,
  backOff: 500,
}

export interface CollectedRecord {
  readonly kind: string
  readonly form: 'text' | 'json'
  readonly text: string
  /** RFC 3339. */
  readonly takenAt: string
}
