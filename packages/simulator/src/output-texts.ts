/** Outputs as they are now: texts that are made, and captured ones with what has changed since. */
import type { SessionRules } from '@jurybox/core/dialects'

/** What a device is made of and runs. */
export interface Hardware {
  readonly model: string | null
  readonly os: string | null
  readonly version: string | null
  readonly serial: string
}

/** A device as its neighbours see it. */
export interface VisibleDevice {
  readonly name: string
  readonly dialect: string
  readonly session: SessionRules | undefined
  /** Model, software and serial number, and where it is managed. */
  readonly hardware: Hardware
  readonly managementAddress: string | null
  /** What others printed when they were captured does not tell of it. */
  readonly untold: boolean
  record(kind: string): string | null
  /** What the folder says that it printed when it was captured. */
  readonly captured: ReadonlyMap<string, string>
}

export interface PortState {
  readonly name: string
  readonly admin: 'up' | 'down'
  readonly oper: 'up' | 'down'
  readonly mtu: number
  readonly addresses: readonly { readonly address: string; readonly prefixLength: number }[]
}

export interface Seen {
  readonly name: string
  readonly port: string
  readonly system: string
  readonly address: string
}

export function rowText({ name, port, system, address }: Seen): string {
  return `${system.padEnd(20)}${shortName(name).padEnd(15)}${'110'.padEnd(11)}${'B,R'.padEnd(16)}${shortName(port).padEnd(12)}${address}`.trimEnd()
}

/** A captured table with rows put at its end, before what counts them. */
export function withRows(text: string, rows: readonly string[]): string {
  if (rows.length === 0) return text
  const lines = text.split('\n')
  const last = lines.findLastIndex((line) => /\d/.test(line) && !/^Total/.test(line))
  return lines
    .toSpliced(last + 1, 0, ...rows)
    .join('\n')
    .replace(/^Total entries displayed: \d+$/m, (line) => line.replace(/\d+/, (n) => String(Number(n) + rows.length)))
}

export function versionText({ name, hardware: { os, version, model, serial } }: VisibleDevice): string {
  return `${os ?? 'Software'} release ${version ?? 'unknown'}\nHardware model: ${model ?? ''}\nHardware serial: ${serial}\n${name}: in service for 12 weeks\n`
}

export function portText({ name, admin, oper, mtu, addresses }: PortState): string {
  const [first] = addresses.filter(({ address }) => !address.includes(':'))
  return `${name} is ${adminText(admin, oper)}, line protocol is ${oper}\n${first ? `  Internet address is ${first.address}/${first.prefixLength}\n` : ''}  MTU ${mtu} bytes\n`
}

function adminText(admin: string, oper: string): string {
  return admin === 'down' ? 'administratively down' : oper
}

/** A captured listing with the ports as they are now; counters stay as they were. */
export function withPorts(text: string, ports: readonly PortState[]): string {
  const now = new Map(ports.map((port) => [port.name, port]))
  return text.replace(
    /^(\S+) is (?:administratively down|up|down), line protocol is (?:up|down)/gm,
    (line, name: string) => {
      const port = now.get(name)
      return port ? `${name} is ${adminText(port.admin, port.oper)}, line protocol is ${port.oper}` : line
    },
  )
}

export function mentions(line: string, ports: ReadonlySet<string>): boolean {
  const words = line.split(/[\s,]+/)
  return [...ports].some((name) => words.includes(name) || words.includes(shortName(name)))
}

/** `TenGigabitEthernet1/1` as tables write it: `Te1/1`. */
function shortName(name: string): string {
  return name.replace(/^([A-Za-z]{2})[A-Za-z-]*/, '$1')
}

/** A captured table without what led over ports that are down; a route goes with its last next hop. */
export function withoutRoutes(text: string, ports: readonly PortState[]): string {
  const down = ports.filter(({ oper }) => oper === 'down')
  if (down.length === 0) return text
  const names = new Set(down.map(({ name }) => name))
  const lost = (line: string): boolean => {
    const via = /\bvia (\d+\.\d+\.\d+\.\d+)/.exec(line)?.[1]
    return (
      mentions(line, names) ||
      (via !== undefined && down.some(({ addresses }) => addresses.some((one) => sameSubnet(one, via))))
    )
  }
  const groups: string[][] = []
  for (const line of text.split('\n')) {
    const last = groups.at(-1)
    if (last && /^\s+\[\d+\/\d+\] via /.test(line)) last.push(line)
    else groups.push([line])
  }
  return groups
    .flatMap((group) => {
      const left = group.filter((line) => !lost(line))
      const head = /^(.*?)\[\d+\/\d+\] via /.exec(group[0] ?? '')?.[1]
      // The first next hop carries the prefix: where it goes, the next takes its place.
      return left.length > 0 && left[0] !== group[0] && head !== undefined
        ? [`${head}${left[0]?.trimStart()}`, ...left.slice(1)]
        : left
    })
    .join('\n')
}

function numberOf(address: string): number {
  return address.split('.').reduce((sum, part) => sum * 256 + Number(part), 0)
}

export function sameSubnet(
  { address, prefixLength }: { readonly address: string; readonly prefixLength: number },
  other: string,
): boolean {
  const size = 2 ** (32 - prefixLength)
  return !address.includes(':') && Math.floor(numberOf(address) / size) === Math.floor(numberOf(other) / size)
}

export function subnetText(address: string, prefixLength: number): string {
  const size = 2 ** (32 - prefixLength)
  const first = Math.floor(numberOf(address) / size) * size
  return `${[24, 16, 8, 0].map((shift) => Math.floor(first / 2 ** shift) % 256).join('.')}/${prefixLength}`
}

export function clockText(now: Date): string {
  const [day, date, month, year] = now.toUTCString().replace(',', '').split(' ')
  return `${now.toISOString().slice(11, 23)} UTC ${day} ${month} ${Number(date)} ${year}`
}
