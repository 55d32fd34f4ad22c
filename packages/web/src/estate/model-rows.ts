import { t } from '../messages/index.ts'
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
      title: t('estate.identity'),
      rows: [
        { label: t('estate.hostName'), path: `${s}.hostname`, text: system.hostname },
        { label: t('estate.domain'), path: `${s}.domainName`, text: system.domainName },
        { label: t('estate.softwareVersion'), path: `${s}.version`, text: system.version },
        {
          label: t('estate.listing'),
          path: '',
          text: listing === 'full' ? t('estate.showsDefaults') : t('estate.hidesDefaults'),
        },
        ...system.nameServers.map((text, i) => ({
          label: t('estate.nameServer'),
          path: `${s}.nameServers[${i}]`,
          text,
        })),
        { label: t('estate.loginBanner'), path: `${s}.banners.login`, text: short(system.banners.login) },
        { label: t('estate.messageOfTheDay'), path: `${s}.banners.motd`, text: short(system.banners.motd) },
      ],
    },
    {
      title: t('estate.services'),
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
          ? [
              row,
              { label: t('estate.sshVersion'), path: `${s}.services.ssh.version`, text: system.services.ssh.version },
            ]
          : [row]
      }),
    },
    {
      title: t('common.time'),
      rows: [
        { label: t('estate.timeZone'), path: `${s}.timeZone`, text: system.timeZone },
        ...system.ntp.servers.map(({ address, key, prefer }, i) => ({
          label: t('estate.ntpServer'),
          path: `${s}.ntp.servers[${i}]`,
          text:
            address +
            (key === null ? t('estate.noKey') : t('estate.key', { key })) +
            (prefer ? t('estate.preferred') : ''),
        })),
        { label: t('estate.ntpAuthentication'), path: `${s}.ntp.authenticate`, text: yesNo(system.ntp.authenticate) },
        ...system.ntp.keys.map(({ id, algorithm, secret }, i) => ({
          label: t('estate.ntpKey', { id }),
          path: `${s}.ntp.keys[${i}]`,
          text: `${algorithm ?? ''} ${secret?.fingerprint ?? ''}`,
        })),
      ],
    },
    {
      title: t('estate.logging'),
      rows: [
        { label: t('estate.logging'), path: `${s}.logging.enabled`, text: yesNo(system.logging.enabled) },
        ...system.logging.hosts.map(({ address, protocol, port }, i) => ({
          label: t('estate.logHost'),
          path: `${s}.logging.hosts[${i}]`,
          text: [address, protocol, port === null ? null : String(port)].filter(Boolean).join(' '),
        })),
        { label: t('estate.timeStamps'), path: `${s}.logging.timestamps`, text: system.logging.timestamps },
      ],
    },
    {
      title: t('estate.snmp'),
      rows: [
        ...system.snmp.communities.map(({ name, access, accessList, isDefault }, i) => ({
          label: t('estate.community'),
          path: `${s}.snmp.communities[${i}]`,
          text: [name, access, accessList, isDefault ? t('estate.defaultName') : null].filter(Boolean).join(', '),
        })),
        ...system.snmp.groups.map(({ name, version, level }, i) => ({
          label: t('estate.group'),
          path: `${s}.snmp.groups[${i}]`,
          text: t('estate.nameVersion', { name, version, level: level ?? '' }),
        })),
        ...system.snmp.hosts.map(({ address, version, level }, i) => ({
          label: t('estate.trapHost'),
          path: `${s}.snmp.hosts[${i}]`,
          text: t('estate.addressVersion', { address, version, level: level ?? '' }),
        })),
        { label: t('estate.location'), path: `${s}.snmp.location`, text: system.snmp.location },
        { label: t('estate.contact'), path: `${s}.snmp.contact`, text: system.snmp.contact },
      ],
    },
    {
      title: t('estate.accessTitle'),
      rows: [
        { label: t('estate.aaa'), path: `${s}.aaa.enabled`, text: yesNo(system.aaa.enabled) },
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
          label: t('estate.accountLockout'),
          path: `${s}.lockout.attempts`,
          text:
            system.lockout.attempts === null
              ? null
              : t('estate.afterAttempts', {
                  attempts: system.lockout.attempts,
                  system:
                    system.lockout.lockSeconds === null
                      ? ''
                      : t('estate.forS', { lockSeconds: system.lockout.lockSeconds }),
                }),
        },
        {
          label: t('estate.enableSecret'),
          path: `${s}.enableSecret`,
          text: system.enableSecret === null ? null : secretText(system.enableSecret),
        },
      ],
    },
  ]
}

const SERVICES = {
  ssh: 'SSH',
  telnet: t('estate.telnet'),
  http: 'HTTP',
  https: 'HTTPS',
  netconf: 'NETCONF',
  ftp: 'FTP',
  tftp: 'TFTP',
  bootp: 'BOOTP',
  rsh: t('estate.remoteShell'),
  rcp: t('estate.remoteCopy'),
  finger: t('estate.finger'),
  lldp: 'LLDP',
  sourceRouting: t('estate.sourceRouting'),
  passwordEncryption: t('estate.passwordObfuscation'),
} as const

/** How a secret is kept, and its fingerprint: never the secret. */
export function secretText(secret: { kind: string; strong: boolean; fingerprint: string }): string {
  return `${secret.kind}${secret.strong ? '' : t('estate.weak')} ${secret.fingerprint}`
}

function short(text: string | null): string | null {
  if (text === null) return null
  const line = text.trim().split('\n')[0] ?? ''
  return line.length > 70 ? `${line.slice(0, 70)}…` : line
}

export function rangesText(ranges: readonly (readonly [number, number])[]): string {
  return ranges.map(([from, to]) => (from === to ? String(from) : `${from}–${to}`)).join(', ')
}
