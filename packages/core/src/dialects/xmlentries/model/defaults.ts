import type { Default } from '../../../model/defaults.ts'

const COMMON = 'common practice, from memory'
const NONE = `${COMMON}: the dialect has no such service`

export const XMLENTRIES_DEFAULTS: readonly Default[] = [
  { path: 'interfaces.*.enabled', value: true, source: `${COMMON}: an interface that is not set down is up` },
  { path: 'interfaces.*.proxyArp', value: false, source: `${COMMON}: proxy ARP is off unless stated` },
  { path: 'system.services.ssh.enabled', value: true, source: `${COMMON}: SSH is on unless switched off` },
  { path: 'system.services.https.enabled', value: true, source: `${COMMON}: HTTPS is on unless switched off` },
  { path: 'system.services.telnet.enabled', value: false, source: `${COMMON}: telnet is off unless switched on` },
  { path: 'system.services.http.enabled', value: false, source: `${COMMON}: plain HTTP is off unless switched on` },
  ...['ftp', 'tftp', 'netconf', 'finger', 'rsh', 'rcp', 'bootp', 'smallServers'].map((name) => ({
    path: `system.services.${name}.enabled`,
    value: false,
    source: NONE,
  })),
  {
    path: 'system.services.sourceRouting.enabled',
    value: false,
    source: `${COMMON}: packets that choose their own way are dropped`,
  },
]
