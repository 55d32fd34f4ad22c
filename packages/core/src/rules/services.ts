/**
 * Services of a device by the protocol and the ports that they are asked by (IANA, RFC 6335), and by the names of
 * zones.
 */
export const SERVICES = {
  login: { protocol: 6, ports: [22, 23], names: ['ssh', 'telnet'] },
  ssh: { protocol: 6, ports: [22], names: ['ssh'] },
  web: { protocol: 6, ports: [80, 443], names: ['http', 'https'] },
  snmp: { protocol: 17, ports: [161], names: ['snmp'] },
  ntp: { protocol: 17, ports: [123], names: ['ntp'] },
  tftp: { protocol: 17, ports: [69], names: ['tftp'] },
  netconf: { protocol: 6, ports: [830], names: ['netconf'] },
} as const
export type Service = keyof typeof SERVICES
export const SERVICE_NAMES = Object.keys(SERVICES) as [Service, ...Service[]]
