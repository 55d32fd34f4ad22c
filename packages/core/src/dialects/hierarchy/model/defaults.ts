import type { Default } from '../../../model/defaults.ts'

const COMMON = 'common practice, from memory'

export const HIERARCHY_DEFAULTS: readonly Default[] = [
  { path: 'interfaces.*.enabled', value: true, source: `${COMMON}: an interface without "disable" is on` },
  { path: 'system.services.ssh.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'system.services.telnet.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'system.services.http.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'system.services.https.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'system.services.ftp.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'system.services.netconf.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'system.services.finger.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'system.services.rsh.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.rcp.enabled', value: false, source: `${COMMON}: the dialect has no such service` },
  { path: 'system.services.bootp.enabled', value: false, source: `${COMMON}: services are off unless stated` },
  { path: 'interfaces.*.proxyArp', value: false, source: `${COMMON}: proxy ARP is off unless stated` },
  {
    path: 'system.services.sourceRouting.enabled',
    value: false,
    source: `${COMMON}: packets that choose their own way are dropped unless stated`,
  },
]
