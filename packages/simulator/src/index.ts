/** A network on loopback, made of a snapshot folder: for the demo, and for tests of whatever talks to devices. */
import { SimulatedDevice } from './device.ts'
import { devicesIn, settingsIn, type Account, type Weather } from './scenario.ts'

export { Desk, type ArrivedCall, type ArrivedMail } from './desk.ts'
export { SimulatedDevice } from './device.ts'
export { devicesIn, settingsIn, type Account, type DeviceFolder, type Weather } from './scenario.ts'

export interface SimulatedNetwork {
  readonly devices: readonly SimulatedDevice[]
  readonly accounts: readonly Account[]
  stop(): Promise<void>
}

/** Who may log in where a folder does not say. */
const ACCOUNTS: readonly Account[] = [{ user: 'jurybox', password: 'heron-at-low-tide', privileged: 'heron-on-the-weir' }]

/**
 * Starts every device of a snapshot folder, each on a port of its own on 127.0.0.1.
 * @throws Error that names the folder, where it holds no device or its settings are none
 */
export async function simulate(folder: string, more: { readonly weather?: Readonly<Record<string, Weather>>; /** Folder that holds `simulator.yaml`, where it is not beside the devices. */ readonly settings?: string } = {}): Promise<SimulatedNetwork> {
  const settings = settingsIn(more.settings ?? folder)
  const accounts = settings?.accounts ?? ACCOUNTS
  const devices = devicesIn(folder).map((of) => new SimulatedDevice(of, accounts, { ...settings?.weather[of.name], ...more.weather?.[of.name] }))
  await Promise.all(devices.map((device) => device.listen()))
  return {
    devices,
    accounts,
    stop: async () => {
      await Promise.all(devices.map((device) => device.stop()))
    },
  }
}
