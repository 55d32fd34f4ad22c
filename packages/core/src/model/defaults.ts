/**
 * What a dialect takes for granted where its listing is silent. Each entry says where that is known from. A value whose
 * default differs between software versions, or is not known, is not here: it stays absent.
 */
export interface Default {
  /** Path of a field; `*` stands for every entry of a list. */
  readonly path: string
  readonly value: string | number | boolean
  readonly source: string
}

const COMMON = 'common practice, from memory'

export const DEFAULTS: Readonly<Record<string, readonly Default[]>> = {
  indented: [
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
  ],
  braced: [
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
  ],
  data: [{ path: 'interfaces.*.enabled', value: true, source: 'RFC 8343 §5: leaf "enabled", default true' }],
}
