/** An SNMPv3 agent: the system group (RFC 3418) and the counters of ports (RFC 2863), as the device is now. */
import { createSocket } from 'node:dgram'
import { DIALECT_IDS } from '@jurybox/core/dialects'
import snmp, { type Agent } from 'net-snmp'
import type { SimulatedDevice } from './device.ts'

const SYSTEM = '1.3.6.1.2.1.1'
/** The number for examples (RFC 5612), then one for each dialect. */
const modelOf = (dialect: string): string => `1.3.6.1.4.1.32473.1.${DIALECT_IDS.indexOf(dialect) + 1}`
const COLUMNS = [
  [1, 'ifIndex', 'Integer'],
  [2, 'ifDescr', 'OctetString'],
  [4, 'ifMtu', 'Integer'],
  [7, 'ifAdminStatus', 'Integer'],
  [8, 'ifOperStatus', 'Integer'],
  [10, 'ifInOctets', 'Counter'],
  [14, 'ifInErrors', 'Counter'],
  [16, 'ifOutOctets', 'Counter'],
  [20, 'ifOutErrors', 'Counter'],
] as const

const ENTITY = [
  [1, 'entPhysicalIndex', 'Integer'],
  [5, 'entPhysicalClass', 'Integer'],
  [10, 'entPhysicalSoftwareRev', 'OctetString'],
  [11, 'entPhysicalSerialNum', 'OctetString'],
  [13, 'entPhysicalModelName', 'OctetString'],
] as const
/** Class of an entity that holds the others. */
const CHASSIS = 3

export class SnmpAgent {
  readonly #agent: Agent
  readonly #started = Date.now()

  private constructor(
    readonly device: SimulatedDevice,
    readonly port: number,
  ) {
    // Whoever asks without knowing the words gets no answer; that is no error of the device.
    this.#agent = snmp.createAgent({ port, address: device.address, disableAuthorization: false }, () => undefined)
    for (const { user, password } of device.accounts) {
      this.#agent
        .getAuthorizer()
        .addUser({
          name: user,
          level: snmp.SecurityLevel.authPriv,
          authProtocol: snmp.AuthProtocols.sha256,
          authKey: password,
          privProtocol: snmp.PrivProtocols.aes,
          privKey: password,
        })
    }
    this.#scalar('sysDescr', 1, snmp.ObjectType.OctetString, () => `${device.name}, a device of an invented network`)
    this.#scalar('sysObjectID', 2, snmp.ObjectType.OID, () => modelOf(device.dialect))
    this.#scalar('sysUpTime', 3, snmp.ObjectType.TimeTicks, () => Math.floor((Date.now() - this.#started) / 10))
    this.#scalar('sysName', 5, snmp.ObjectType.OctetString, () => device.name)
    this.#entity()
    this.#ports()
  }

  static async start(device: SimulatedDevice): Promise<SnmpAgent> {
    return new SnmpAgent(device, await freePort(device.address))
  }

  async stop(): Promise<void> {
    await new Promise<void>((resolve) => this.#agent.close(resolve))
  }

  #scalar(name: string, number: number, scalarType: number, value: () => unknown): void {
    const mib = this.#agent.getMib()
    mib.registerProvider({
      name,
      type: snmp.MibProviderType.Scalar,
      oid: `${SYSTEM}.${number}`,
      scalarType,
      maxAccess: snmp.MaxAccess['read-only'],
      handler: (request) => {
        request.instanceNode.value = value()
        request.done()
      },
    })
    mib.setScalarValue(name, value())
  }

  /** RFC 6933: what holds all else, with its model, serial number and software. */
  #entity(): void {
    const { model, serial, version } = this.device.hardware
    const mib = this.#agent.getMib()
    mib.registerProvider({
      name: 'entPhysicalTable',
      type: snmp.MibProviderType.Table,
      oid: '1.3.6.1.2.1.47.1.1.1.1',
      maxAccess: snmp.MaxAccess['not-accessible'],
      tableColumns: ENTITY.map(([number, name, type]) => ({
        number,
        name,
        type: snmp.ObjectType[type],
        maxAccess: snmp.MaxAccess['read-only'],
      })),
      tableIndex: [{ columnName: 'entPhysicalIndex' }],
    })
    mib.addTableRow('entPhysicalTable', [1, CHASSIS, version ?? '', serial, model ?? ''])
  }

  #ports(): void {
    const mib = this.#agent.getMib()
    mib.registerProvider({
      name: 'ifTable',
      type: snmp.MibProviderType.Table,
      oid: '1.3.6.1.2.1.2.2.1',
      maxAccess: snmp.MaxAccess['not-accessible'],
      tableColumns: COLUMNS.map(([number, name, type]) => ({
        number,
        name,
        type: snmp.ObjectType[type],
        maxAccess: snmp.MaxAccess['read-only'],
      })),
      tableIndex: [{ columnName: 'ifIndex' }],
      handler: (request) => {
        this.#refresh()
        request.done()
      },
    })
    for (const row of this.#rows()) mib.addTableRow('ifTable', row)
  }

  /** Ports go up and down; the rest of their rows stays. */
  #refresh(): void {
    for (const [index, , , admin, oper] of this.#rows()) {
      this.#agent.getMib().setTableSingleCell('ifTable', 7, [index], admin)
      this.#agent.getMib().setTableSingleCell('ifTable', 8, [index], oper)
    }
  }

  #rows(): (string | number)[][] {
    const { device } = this
    const counters = device.counters
    return (device.around?.ports(device) ?? []).map(({ name, mtu, admin, oper }, i) => {
      const of = counters.get(name)
      return [
        i + 1,
        name,
        mtu,
        admin === 'up' ? 1 : 2,
        oper === 'up' ? 1 : 2,
        (of?.inOctets ?? 0) % 2 ** 32,
        of?.inErrors ?? 0,
        (of?.outOctets ?? 0) % 2 ** 32,
        of?.outErrors ?? 0,
      ]
    })
  }
}

/** The agent binds to the port that it is told and says nothing of another. */
async function freePort(address: string): Promise<number> {
  const socket = createSocket('udp4')
  await new Promise<void>((resolve) => socket.bind(0, address, () => resolve()))
  const { port } = socket.address()
  await new Promise<void>((resolve) => socket.close(() => resolve()))
  return port
}
