/** A network on loopback, made of a snapshot folder: for the demo, and for tests of whatever talks to devices. */
import { createSocket } from 'node:dgram'
import { writeSyslog } from '@jurybox/core/state'
import { Desk, safe } from './desk.ts'
import { SimulatedDevice, type SimulatedEnvironment } from './device.ts'
import { Cabling } from './cabling.ts'
import { devicesIn, settingsIn, type Account, type DayStep, type Weather } from './scenario.ts'

export { startTimeAuthority, type TimeAuthority } from './time-authority.ts'
export { Desk, type ArrivedCall, type ArrivedMail } from './desk.ts'
export { editingOf, type Editing, type Entered } from './editing.ts'
export { SimulatedDevice, type SimulatedEnvironment } from './device.ts'
export { devicesIn, settingsIn, type Account, type DayStep, type DeviceFolder, type Weather } from './scenario.ts'

export interface SimulatedNetwork {
  readonly devices: readonly SimulatedDevice[]
  /** The port at which devices answer at addresses of their own; null where they do not. */
  readonly sharedPort: number | null
  readonly accounts: readonly Account[]
  /** What happens in the course of the day, and how much of it has happened. */
  readonly day: readonly DayStep[]
  readonly happened: number
  /** Lets the next thing happen; null where the day is over. */
  step(): DayStep | null
  /** Lets all that is left happen, one thing after the other. @param pause milliseconds between two */
  run(pause: number): Promise<void>
  /** Where each change of a configuration is told; nowhere by default. */
  tellAt(listener: { readonly host: string; readonly port: number } | null): void
  stop(): Promise<void>
}

export interface SimulationOptions {
  readonly weather?: Readonly<Record<string, Weather>>
  /** Folder that holds `simulator.yaml`, where it is not beside the devices. */
  readonly settings?: string
  readonly now?: () => Date
  /** Whether devices answer SNMP as well. */
  readonly snmp?: boolean
  /** Another folder, of devices that stand in the network and in no snapshot. */
  readonly besides?: string
  /** Whether devices answer at addresses of their own as well, all at one port: 10.a.b.c at 127.a.b.c. */
  readonly spread?: boolean
}

/** The desk of a network, whose page lets the day go on. */
export function deskOf(network: SimulatedNetwork): Desk {
  const steps = (): string =>
    network.day
      .map(({ title, device, by }, i) => {
        const happened = i < network.happened
        const where = `(${safe(device)}${by ? `, ${safe(by)}` : ''})${happened ? ', has happened' : ''}`
        return `<li class="${happened ? '' : 'quiet'}">${safe(title)} <span class="quiet">${where}</span></li>`
      })
      .join('')
  const button = (): string =>
    network.happened < network.day.length
      ? '<form method="post" action="/act/step"><button>Let the next thing happen</button> ' +
        '<button formaction="/act/run">Let the rest happen, one every half minute</button></form>'
      : '<p>The day is over.</p>'
  return new Desk({
    page: () => (network.day.length === 0 ? '' : `<section><h2>The day</h2><ol>${steps()}</ol>${button()}</section>`),
    act: async (path) => {
      if (path === 'step') network.step()
      // It goes on by itself: whoever asked does not wait for the end of the day.
      else if (path === 'run') void network.run(RUN_MS)
    },
  })
}

/** Between two things of a day that runs by itself. */
const RUN_MS = 30_000

/** Who may log in where a folder does not say. */
const ACCOUNTS: readonly Account[] = [
  { user: 'jurybox', password: 'heron-at-low-tide', privileged: 'heron-on-the-weir' },
]

/** Facility 23 is for local use (RFC 5424 §6.2.1); a notice. */
const [LOCAL7, NOTICE] = [23, 5]

/**
 * Starts every device of a snapshot folder, each on a port of its own on 127.0.0.1.
 * @throws Error that names the folder, where it holds no device or its settings are none
 */
export async function simulate(
  folder: string,
  {
    weather = {},
    settings: settingsFolder,
    now = () => new Date(),
    snmp = false,
    spread = false,
    besides,
  }: SimulationOptions = {},
): Promise<SimulatedNetwork> {
  const settings = settingsIn(settingsFolder ?? folder)
  const accounts = settings?.accounts ?? ACCOUNTS
  const day = settings?.day ?? []
  const socket = createSocket('udp4').unref()
  let listener: { readonly host: string; readonly port: number } | null = null
  let plant: Cabling | null = null
  let happened = 0
  const around: SimulatedEnvironment = {
    now,
    printed: (device, kind) => plant?.printed(device, kind, now()) ?? null,
    probed: (device, probe, target) => plant?.probed(device, probe, target) ?? '',
    ports: (device) => plant?.ports(device) ?? [],
    modelled: (device, text) => plant?.modelOf(device, text) ?? null,
    changed: ({ name }, by) => {
      if (!listener) return
      // 32473 is the number for examples (RFC 5612).
      const data = new Map([['change@32473', new Map([['user', by]])]])
      socket.send(
        writeSyslog({
          facility: LOCAL7,
          severity: NOTICE,
          timestamp: now().toISOString(),
          host: name,
          app: 'config',
          process: null,
          id: 'CHANGED',
          data,
          text: `The configuration was changed by ${by}`,
        }),
        listener.port,
        listener.host,
      )
    },
  }
  const devices = [
    ...devicesIn(folder),
    ...(besides === undefined ? [] : devicesIn(besides).map((of) => ({ ...of, untold: true }))),
  ].map((of) => new SimulatedDevice(of, accounts, { ...settings?.weather[of.name], ...weather[of.name] }, around))
  plant = new Cabling(devices)
  await Promise.all(devices.map((device) => device.listen()))
  let sharedPort: number | null = null
  if (spread) {
    for (const device of devices) {
      const own = device.managementAddress?.match(/^10\.(\d+\.\d+\.\d+)$/)?.[1]
      if (own !== undefined) sharedPort = await device.answerAt(`127.${own}`, sharedPort ?? 0)
    }
  }
  // One after the other: each looks for a port of its own.
  if (snmp) for (const device of devices) await device.countPorts()
  let stopped = false
  const network: SimulatedNetwork = {
    devices,
    sharedPort,
    accounts,
    day,
    get happened() {
      return happened
    },
    step: () => {
      const next = day[happened]
      if (!next) return null
      const device = devices.find(({ name }) => name === next.device)
      if (!device) throw new Error(`The day names “${next.device}”, which is no device of ${folder}`)
      if (next.types) device.type(next.types, next.by ?? 'somebody')
      if (next.saves) device.save()
      if (next.weather) device.weather = next.weather
      // Whoever pinned the old key hears of it at the next connection.
      if (next.newKey) void device.replace()
      happened += 1
      return next
    },
    run: async (pause) => {
      while (!stopped && network.step()) await new Promise((resolve) => setTimeout(resolve, pause))
    },
    tellAt: (where) => {
      listener = where
    },
    stop: async () => {
      stopped = true
      await Promise.all(devices.map((device) => device.stop()))
      socket.close()
    },
  }
  return network
}
