import type { Default } from '../../../model/defaults.ts'

const COMMON = 'common practice, from memory'

export const INDENTED_DEFAULTS: readonly Default[] = [
  {
    path: 'system.terminals.*.idleSeconds',
    value: 600,
    source: `${COMMON}: terminal lines end an idle session after ten minutes`,
  },
  { path: 'interfaces.*.proxyArp', value: true, source: `${COMMON}: proxy ARP is on unless switched off` },
  { path: 'interfaces.*.redirects', value: true, source: `${COMMON}: ICMP redirects are sent unless switched off` },
  { path: 'interfaces.*.enabled', value: true, source: `${COMMON}: an interface without "shutdown" is on` },
  {
    path: 'system.services.sourceRouting.enabled',
    value: true,
    source: `${COMMON}: source routing is on unless switched off`,
  },
  {
    path: 'system.services.bootp.enabled',
    value: true,
    source: `${COMMON}: the BOOTP server is on unless switched off`,
  },
  {
    path: 'system.services.rsh.enabled',
    value: false,
    source: `${COMMON}: the remote shell is off unless switched on`,
  },
  { path: 'system.services.rcp.enabled', value: false, source: `${COMMON}: remote copy is off unless switched on` },
  {
    path: 'system.services.passwordEncryption.enabled',
    value: false,
    source: `${COMMON}: passwords are listed as typed unless obscured`,
  },
  { path: 'system.logging.enabled', value: true, source: `${COMMON}: logging is on unless switched off` },
  { path: 'system.ntp.authenticate', value: false, source: `${COMMON}: NTP is not authenticated unless told to` },
  { path: 'system.aaa.enabled', value: false, source: `${COMMON}: AAA is off unless switched on` },
]
