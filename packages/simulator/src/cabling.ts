/**
 * What devices do, as far as it follows from what they are configured to: ports, links, neighbours, routes and clocks.
 */
import { createHash } from 'node:crypto'
import { EffectiveConfig, dialectById, modelOf, type DeviceModel } from '@jurybox/core'
import { stateOf } from '@jurybox/core/analysis'
import { tailOf, withoutTail } from '@jurybox/core/syntax'
import {
  type VisibleDevice,
  type PortState,
  type Seen,
  rowText,
  withRows,
  versionText,
  portText,
  withPorts,
  mentions,
  withoutRoutes,
  sameSubnet,
  subnetText,
  clockText,
} from './output-texts.ts'

interface End {
  readonly device: string
  readonly port: string
}

/** The cables between devices, and what runs over them. */
export class Cabling {
  readonly #links: ReadonlyMap<string, End>
  readonly #models = new Map<string, { text: string; model: DeviceModel }>()
  readonly #devices: ReadonlyMap<string, VisibleDevice>

  constructor(devices: readonly VisibleDevice[]) {
    this.#devices = new Map(devices.map((device) => [device.name, device]))
    this.#links = new Map(this.#cables().flatMap(([a, b]) => [[keyOf(a), b] as const, [keyOf(b), a] as const]))
  }

  /** @param text another configuration than the running one */
  modelOf(device: VisibleDevice, text = device.record('config')): DeviceModel | null {
    const dialect = dialectById(device.dialect)
    if (text === null || !dialect) return null
    const known = this.#models.get(device.name)
    if (known?.text === text) return known.model
    const { model } = modelOf(EffectiveConfig.of(dialect.read(text), dialect), { record: device.name, mask: () => '' })
    this.#models.set(device.name, { text, model })
    return model
  }

  ports(device: VisibleDevice): PortState[] {
    const captured = new Map(capturedState(device).interfaces.map((one) => [one.name, one]))
    return (this.modelOf(device)?.interfaces ?? []).map(({ name, enabled, mtu, addresses }) => {
      const admin = enabled === false ? 'down' : 'up'
      const then = captured.get(name)
      // A port that was dead while it was switched on stays dead; one that was off comes up when it is switched on.
      const dead = then?.oper === 'down' && then.admin !== 'down'
      const far = this.#links.get(keyOf({ device: device.name, port: name }))
      const farOn = far === undefined || this.#switchedOn(far)
      return {
        name,
        admin,
        oper: admin === 'up' && !dead && farOn ? 'up' : 'down',
        mtu: mtu ?? then?.mtu ?? 1500,
        addresses,
      }
    })
  }

  /** What a device prints of its state; null where it knows no such command. */
  printed(device: VisibleDevice, kind: string, now: Date): string | null {
    const text = device.captured.get(kind) ?? null
    if (kind === 'state/version' && text === null && device.hardware.model !== null) return versionText(device)
    if (kind === 'state/neighbours' && text === null && device.session?.prompt === 'user')
      return this.#neighboursOf(device, new Set())
    if (device.session?.prompt !== 'levels') return text
    const ports = this.ports(device)
    if (kind === 'state/interfaces') return text === null ? ports.map(portText).join('') : withPorts(text, ports)
    const down = new Set(ports.filter(({ oper }) => oper === 'down').map(({ name }) => name))
    if (kind === 'state/neighbours')
      return text === null
        ? this.#neighboursOf(device, down)
        : withRows(
            text
              .split('\n')
              .filter((line) => !mentions(line, down))
              .join('\n'),
            this.#untoldRows(device, down),
          )
    if (kind === 'state/routes') return text === null ? this.#routesOf(device, ports) : withoutRoutes(text, ports)
    const servers = this.modelOf(device)?.system.ntp.servers ?? []
    if (kind === 'state/ntp')
      return servers.length === 0
        ? 'Clock is unsynchronized, stratum 16, no reference clock\n'
        : (text ?? `Clock is synchronized, stratum 3, reference is ${servers[0]?.address}\n`)
    if (kind === 'state/clock') return `${servers.length === 0 ? '*' : ''}${clockText(now)}\n`
    return text
  }

  /** What a device answers when it is asked about another, by name or address. */
  probed(from: VisibleDevice, probe: 'ping' | 'lookup' | 'path', target: string): string {
    const named = this.#devices.get(target)
    const address = /^[\d.]+$/.test(target) ? target : named && this.#addressesOf(named)[0]
    if (address === undefined) return `No address of ${target} is known.\n`
    if (probe === 'lookup') return `${target} is at ${address}\n`
    const way = this.#wayTo(from, address)
    if (probe === 'ping')
      return way ? `5 packets to ${address}: 5 came back, 0 lost\n` : `5 packets to ${address}: 0 came back, 5 lost\n`
    if (!way) return ' 1  nobody answers\n'
    return way
      .map(
        (device, i) =>
          `${String(i + 1).padStart(2)}  ` +
          `${i === way.length - 1 ? address : (this.#addressesOf(device)[0] ?? '?')}  ${device.name}\n`,
      )
      .join('')
  }

  #addressesOf(device: VisibleDevice): string[] {
    return this.ports(device)
      .filter(({ oper }) => oper === 'up')
      .flatMap(({ addresses }) =>
        addresses.filter(({ address }) => !address.includes(':')).map(({ address }) => address),
      )
  }

  /** The devices on the way to an address, the one that has it last; null where no way leads there. */
  #wayTo(from: VisibleDevice, address: string): VisibleDevice[] | null {
    const before = new Map<string, string | null>([[from.name, null]])
    const queue = [from]
    for (let device = queue.shift(); device; device = queue.shift()) {
      if (this.#addressesOf(device).includes(address)) {
        const way: VisibleDevice[] = []
        for (let at: string | null = device.name; at !== null && at !== from.name; at = before.get(at) ?? null)
          way.unshift(this.#devices.get(at) as VisibleDevice)
        return way
      }
      for (const next of this.#besides(device)) {
        if (before.has(next.name)) continue
        before.set(next.name, device.name)
        queue.push(next)
      }
    }
    return null
  }

  /** Devices that a port of one shares a cable or a subnet with, while both are up. */
  #besides(device: VisibleDevice): VisibleDevice[] {
    const own = this.ports(device).filter(({ oper }) => oper === 'up')
    const wired = own.flatMap(({ name }) => this.#links.get(keyOf({ device: device.name, port: name }))?.device ?? [])
    const near = (other: VisibleDevice): boolean =>
      this.ports(other).some(
        ({ oper, addresses }) =>
          oper === 'up' &&
          addresses.some(
            ({ address, prefixLength }) =>
              !address.includes(':') &&
              prefixLength < 32 &&
              own.some((port) =>
                port.addresses.some((one) => one.prefixLength === prefixLength && sameSubnet(one, address)),
              ),
          ),
      )
    return [...this.#devices.values()].filter(
      (other) => other.name !== device.name && (wired.includes(other.name) || near(other)),
    )
  }

  #switchedOn({ device, port }: End): boolean {
    const of = this.#devices.get(device)
    return (of && this.modelOf(of)?.interfaces.find(({ name }) => name === port))?.enabled !== false
  }

  #seenBy(device: VisibleDevice, down: ReadonlySet<string>): Seen[] {
    return (this.modelOf(device)?.interfaces ?? []).flatMap(({ name }) => {
      const far = this.#links.get(keyOf({ device: device.name, port: name }))
      const of = far && this.#devices.get(far.device)
      // Gateways do not tell who they are.
      return far && of && of.session?.prompt !== 'shell' && !down.has(name)
        ? [{ name, port: far.port, system: far.device, address: of.managementAddress ?? '' }]
        : []
    })
  }

  /** Rows of neighbours that came after the table was captured. */
  #untoldRows(device: VisibleDevice, down: ReadonlySet<string>): string[] {
    return this.#seenBy(device, down)
      .filter(({ system }) => this.#devices.get(system)?.untold)
      .map(rowText)
  }

  /** As the system of the device lists them (IEEE 802.1AB: port, name and management address of the other end). */
  #neighboursOf(device: VisibleDevice, down: ReadonlySet<string>): string {
    const seen = this.#seenBy(device, down)
    if (device.session?.prompt !== 'levels') {
      const rows = seen.map(({ name, port, system, address }) =>
        `${name.padEnd(19)}${'-'.padEnd(8)}${chassisOf(system)}   ${port.padEnd(27)}${system.padEnd(16)}${address}`.trimEnd(),
      )
      return [
        'Local Interface    Parent  Chassis Id          Port                       System Name     Management Address',
        ...rows,
        '',
      ].join('\n')
    }
    const rows = seen.map(rowText)
    return [
      'Capability codes:',
      '    (R) Router, (B) Bridge',
      '',
      'Device ID           Local Intf     Hold-time  Capability      Port ID     Management Address',
      ...rows,
      '',
      `Total entries displayed: ${rows.length}`,
      '',
    ].join('\n')
  }

  #routesOf(device: VisibleDevice, ports: readonly PortState[]): string {
    const up = ports.filter(
      ({ oper, addresses }) => oper === 'up' && addresses.some(({ address }) => !address.includes(':')),
    )
    const connected = up.flatMap(({ name, addresses }) =>
      addresses.flatMap(({ address, prefixLength }) =>
        address.includes(':') ? [] : [`C        ${subnetText(address, prefixLength)} is directly connected, ${name}`],
      ),
    )
    const statics = (this.modelOf(device)?.staticRoutes ?? []).flatMap(({ prefix, nextHop, interface: port, vrf }) => {
      if (vrf !== null || prefix.includes(':')) return []
      if (nextHop === null)
        return up.some(({ name }) => name === port) ? [`S        ${prefix} is directly connected, ${port}`] : []
      return up.some(({ addresses }) => addresses.some((one) => sameSubnet(one, nextHop)))
        ? [`S        ${prefix} [1/0] via ${nextHop}`]
        : []
    })
    return [
      'Codes: L - local, C - connected, S - static, R - RIP, O - OSPF, B - BGP',
      '',
      'Gateway of last resort is not set',
      '',
      ...connected,
      ...statics,
      '',
    ].join('\n')
  }

  /** By the neighbour tables that were captured, else by subnets of two that two ports share. */
  #cables(): [End, End][] {
    const cables = new Map<string, [End, End]>()
    const add = (a: End, b: End): void => {
      const key = [keyOf(a), keyOf(b)].sort().join(' ')
      if (a.device !== b.device) cables.set(key, [a, b])
    }
    const bySubnet = new Map<string, End[]>()
    for (const device of this.#devices.values()) {
      for (const { name, addresses } of this.modelOf(device)?.interfaces ?? []) {
        for (const { address, prefixLength } of addresses) {
          if (address.includes(':') || prefixLength < 30 || prefixLength > 31) continue
          const subnet = subnetText(address, prefixLength)
          bySubnet.set(subnet, [...(bySubnet.get(subnet) ?? []), { device: device.name, port: name }])
        }
      }
      for (const { interface: local, system, port } of capturedState(device).neighbours) {
        const far = this.#devices.get(system)
        const [own, other] = [this.#portNamed(device, local), far && this.#portNamed(far, port ?? '')]
        if (own && other) add({ device: device.name, port: own }, { device: system, port: other })
      }
    }
    for (const [a, b, ...more] of bySubnet.values()) if (a && b && more.length === 0) add(a, b)
    return [...cables.values()]
  }

  /** The whole name of a port that is written short. */
  #portNamed(device: VisibleDevice, written: string): string | null {
    const [letters, number] = [withoutTail(written, /[\d/.]/).toLowerCase(), tailOf(written, /[\d/.]/)]
    return (
      (this.modelOf(device)?.interfaces ?? []).find(
        ({ name }) =>
          name.toLowerCase().startsWith(letters) && name.endsWith(number) && name.replace(/^[A-Za-z-]*/, '') === number,
      )?.name ?? null
    )
  }
}

/** A locally administered address (IEEE 802), the same for the same name. */
export function chassisOf(name: string): string {
  return `02:00:${(createHash('sha256').update(name).digest('hex').match(/../g) ?? []).slice(0, 4).join(':')}`
}

function keyOf({ device, port }: End): string {
  return `${device} ${port}`
}

const states = new WeakMap<ReadonlyMap<string, string>, ReturnType<typeof stateOf>['state']>()

function capturedState({ captured }: VisibleDevice): ReturnType<typeof stateOf>['state'] {
  const known = states.get(captured)
  if (known) return known
  const { state } = stateOf(
    [...captured]
      .filter(([kind]) => kind.startsWith('state/'))
      .map(([kind, text]) => ({ record: kind, kind: kind.slice('state/'.length), text })),
  )
  states.set(captured, state)
  return state
}
