import type { Default } from '../../../model/defaults.ts'

const COMMON = 'common practice, from memory'

export const EDITBLOCKS_DEFAULTS: readonly Default[] = [
  { path: 'interfaces.*.enabled', value: true, source: `${COMMON}: an interface that is not set down is up` },
  { path: 'interfaces.*.proxyArp', value: false, source: `${COMMON}: proxy ARP is off unless stated` },
  {
    path: 'interfaces.*.reversePath',
    value: 'feasible',
    source: `${COMMON}: some route back leads by the interface (RFC 3704 §2.3)`,
  },
  { path: 'interfaces.*.redirects', value: true, source: `${COMMON}: ICMP redirects are sent unless switched off` },
  {
    path: 'system.services.ssh.enabled',
    value: false,
    source: `${COMMON}: services are off unless an interface has them`,
  },
  {
    path: 'system.services.telnet.enabled',
    value: false,
    source: `${COMMON}: services are off unless an interface has them`,
  },
  {
    path: 'system.services.http.enabled',
    value: false,
    source: `${COMMON}: services are off unless an interface has them`,
  },
  {
    path: 'system.services.https.enabled',
    value: false,
    source: `${COMMON}: services are off unless an interface has them`,
  },
  { path: 'system.services.ftp.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.tftp.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.netconf.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.finger.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.rsh.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.rcp.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.bootp.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.smallServers.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  {
    path: 'system.services.sourceRouting.enabled',
    value: false,
    source: `${COMMON}: packets that choose their own way are dropped`,
  },
  { path: 'system.lockout.attempts', value: 3, source: `${COMMON}: an account is locked after three wrong passwords` },
  { path: 'system.lockout.lockSeconds', value: 60, source: `${COMMON}: an account is locked for a minute` },
]
