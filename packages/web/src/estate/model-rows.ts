import type { DeviceModel } from '@jurybox/core'

/** One value of the model as a page shows it. */
export interface SaidRow {
  readonly label: string
  readonly path: string
  readonly text: string | null
}
export interface SaidGroup {
  readonly title: string
  readonly rows: readonly SaidRow[]
}

function yesNo(value: boolean | null, yes = 'on', no = 'off'): string | null {
  return value === null ? null : value ? yes : no
}

/** The device as a whole, by topic. */
export function systemGroups({ system, listing }: DeviceModel): SaidGroup[] {
  const s = 'system'
  return [
    {
      title: 'Identity',
      rows: [
        { label: 'Host name', path: `${s}.hostname`, text: system.hostname },
        { label: 'Domain', path: `${s}.domainName`, text: system.domainName },
        { label: 'Software version', path: `${s}.version`, text: system.version },
        { label: 'Listing', path: '', text: listing === 'full' ? 'shows defaults' : 'hides defaults' },
        ...system.nameServers.map((text, i) => ({ label: 'Name server', path: `${s}.nameServers[${i}]`, text })),
        { label: 'Login banner', path: `${s}.banners.login`, text: short(system.banners.login) },
        { label: 'Message of the day', path: `${s}.banners.motd`, text: short(system.banners.motd) },
      ],
    },
    {
      title: 'Services',
      rows: Object.entries(SERVICES).flatMap(([name, label]) => {
        const service = system.services[name as keyof typeof SERVICES]
        const about = [service.authentication, service.accessList === null ? null : `only ${service.accessList}`]
          .filter(Boolean)
          .join(', ')
        const row = {
          label,
          path: `${s}.services.${name}.enabled`,
          text: service.enabled === null ? null : `${yesNo(service.enabled) ?? ''}${about === '' ? '' : ` (${about})`}`,
        }
        return name === 'ssh'
          ? [row, { label: 'SSH version', path: `${s}.services.ssh.version`, text: system.services.ssh.version }]
          : [row]
      }),
    },
    {
      title: 'Time',
      rows: [
        { label: 'Time zone', path: `${s}.timeZone`, text: system.timeZone },
        ...system.ntp.servers.map(({ address, key, prefer }, i) => ({
          label: 'NTP server',
          path: `${s}.ntp.servers[${i}]`,
          text: `${address}${key === null ? ', no key' : `, key ${key}`}${prefer ? ', preferred' : ''}`,
        })),
        { label: 'NTP authentication', path: `${s}.ntp.authenticate`, text: yesNo(system.ntp.authenticate) },
        ...system.ntp.keys.map(({ id, algorithm, secret }, i) => ({
          label: `NTP key ${id}`,
          path: `${s}.ntp.keys[${i}]`,
          text: `${algorithm ?? ''} ${secret?.fingerprint ?? ''}`,
        })),
      ],
    },
    {
      title: 'Logging',
      rows: [
        { label: 'Logging', path: `${s}.logging.enabled`, text: yesNo(system.logging.enabled) },
        ...system.logging.hosts.map(({ address, protocol, port }, i) => ({
          label: 'Log host',
          path: `${s}.logging.hosts[${i}]`,
          text: [address, protocol, port === null ? null : String(port)].filter(Boolean).join(' '),
        })),
        { label: 'Time stamps', path: `${s}.logging.timestamps`, text: system.logging.timestamps },
      ],
    },
    {
      title: 'SNMP',
      rows: [
        ...system.snmp.communities.map(({ name, access, accessList, isDefault }, i) => ({
          label: 'Community',
          path: `${s}.snmp.communities[${i}]`,
          text: [name, access, accessList, isDefault ? 'a default name' : null].filter(Boolean).join(', '),
        })),
        ...system.snmp.groups.map(({ name, version, level }, i) => ({
          label: 'Group',
          path: `${s}.snmp.groups[${i}]`,
          text: `${name}, version ${version} ${level ?? ''}`,
        })),
        ...system.snmp.hosts.map(({ address, version, level }, i) => ({
          label: 'Trap host',
          path: `${s}.snmp.hosts[${i}]`,
          text: `${address}, version ${version} ${level ?? ''}`,
        })),
        { label: 'Location', path: `${s}.snmp.location`, text: system.snmp.location },
        { label: 'Contact', path: `${s}.snmp.contact`, text: system.snmp.contact },
      ],
    },
    {
      title: 'Access',
      rows: [
        { label: 'AAA', path: `${s}.aaa.enabled`, text: yesNo(system.aaa.enabled) },
        ...system.aaa.methods.map(({ purpose, name, methods }, i) => ({
          label: `${purpose} ${name}`,
          path: `${s}.aaa.methods[${i}]`,
          text: methods.join(' '),
        })),
        ...system.aaa.servers.map(({ protocol, name, address }, i) => ({
          label: `${protocol} server`,
          path: `${s}.aaa.servers[${i}]`,
          text: address === null || address === name ? name : `${name} ${address}`,
        })),
        {
          label: 'Lock-out',
          path: `${s}.lockout.attempts`,
          text:
            system.lockout.attempts === null
              ? null
              : `after ${system.lockout.attempts} attempts${system.lockout.lockSeconds === null ? '' : ` for ${system.lockout.lockSeconds} s`}`,
        },
        {
          label: 'Highest privilege',
          path: `${s}.enableSecret`,
          text: system.enableSecret === null ? null : secretText(system.enableSecret),
        },
      ],
    },
  ]
}

const SERVICES = {
  ssh: 'SSH',
  telnet: 'Telnet',
  http: 'HTTP',
  https: 'HTTPS',
  netconf: 'NETCONF',
  ftp: 'FTP',
  tftp: 'TFTP',
  bootp: 'BOOTP',
  rsh: 'Remote shell',
  rcp: 'Remote copy',
  finger: 'Finger',
  lldp: 'LLDP',
  sourceRouting: 'Source routing',
  passwordEncryption: 'Passwords obscured',
} as const

/** How a secret is kept, and its fingerprint: never the secret. */
export function secretText(secret: { kind: string; strong: boolean; fingerprint: string }): string {
  return `${secret.kind}${secret.strong ? '' : ', weak'} ${secret.fingerprint}`
}

function short(text: string | null): string | null {
  if (text === null) return null
  const line = text.trim().split('\n')[0] ?? ''
  return line.length > 70 ? `${line.slice(0, 70)}…` : line
}

export function rangesText(ranges: readonly (readonly [number, number])[]): string {
  return ranges.map(([from, to]) => (from === to ? String(from) : `${from}–${to}`)).join(', ')
}
