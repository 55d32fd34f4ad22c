/**
 * Facts and counters over SNMPv3 with authentication and privacy (RFC 3414, RFC 3826): the system group and the
 * counters of ports.
 */
import { isIPv6 } from 'node:net'
import snmp, { type Session, type Varbind } from 'net-snmp'

export interface SnmpUser {
  readonly user: string
  /** Passwords of eight characters at least (RFC 3414 §11.2). */
  readonly auth: string
  readonly privacy: string
}

/** RFC 3418: the system group, whose object identifier tells the maker's model. */
const SYSTEM = {
  description: '1.3.6.1.2.1.1.1.0',
  objectId: '1.3.6.1.2.1.1.2.0',
  uptime: '1.3.6.1.2.1.1.3.0',
  name: '1.3.6.1.2.1.1.5.0',
}
/**
 * RFC 6933: model, serial number and software of physical entities, the first of which is what holds the others; from
 * memory.
 */
const ENTITY = {
  class: '1.3.6.1.2.1.47.1.1.1.1.5.1',
  software: '1.3.6.1.2.1.47.1.1.1.1.10.1',
  serial: '1.3.6.1.2.1.47.1.1.1.1.11.1',
  model: '1.3.6.1.2.1.47.1.1.1.1.13.1',
}
/** RFC 2863: columns of the table of interfaces. */
const COLUMNS: Readonly<Record<string, string>> = {
  2: 'name',
  4: 'mtu',
  7: 'admin',
  8: 'oper',
  10: 'in-octets',
  13: 'in-discards',
  14: 'in-errors',
  16: 'out-octets',
  19: 'out-discards',
  20: 'out-errors',
}
const TABLE = '1.3.6.1.2.1.2.2.1'
/** Most cells of the table that are taken. */
const MOST = 200_000

/**
 * What a device says of itself and its ports, as JSON in the form of RFC 7951 (RFC 7317, RFC 8343, RFC 8348).
 * @throws Error where it does not answer, or not to this user
 */
export async function snmpRecord(
  host: string,
  port: number,
  { user, auth, privacy }: SnmpUser,
  timeout: number,
): Promise<string> {
  const session = snmp.createV3Session(
    host,
    {
      name: user,
      level: snmp.SecurityLevel.authPriv,
      authProtocol: snmp.AuthProtocols.sha256,
      authKey: auth,
      privProtocol: snmp.PrivProtocols.aes,
      privKey: privacy,
    },
    { port, timeout, retries: 1, version: snmp.Version3, transport: isIPv6(host) ? 'udp6' : 'udp4' },
  )
  try {
    const system = await new Promise<readonly Varbind[]>((resolve, reject) => {
      session.on('error', reject)
      session.get([...Object.values(SYSTEM), ...Object.values(ENTITY)], (error, varbinds) =>
        error ? reject(error) : resolve(varbinds),
      )
    })
    const said = Object.fromEntries(
      [...Object.keys(SYSTEM), ...Object.keys(ENTITY)].map((name, i) => [
        name,
        system[i] && !snmp.isVarbindError(system[i]) ? String(system[i].value) : null,
      ]),
    )
    const chassis =
      said['serial'] || said['model']
        ? {
            'ietf-hardware:hardware': {
              component: [
                {
                  name: 'chassis',
                  class: 'iana-hardware:chassis',
                  'model-name': said['model'],
                  'serial-num': said['serial'],
                  'software-rev': said['software'],
                },
              ],
            },
          }
        : {}
    const ports = await table(session)
    return JSON.stringify(
      {
        'ietf-system:system-state': {
          platform: { 'os-name': said['name'], 'os-version': said['description'], machine: said['objectId'] },
          'jurybox:uptime-seconds': said['uptime'] === null ? null : Math.floor(Number(said['uptime']) / 100),
        },
        ...chassis,
        'ietf-interfaces:interfaces': {
          interface: [...ports.values()].map(({ name, mtu: _, admin, oper, ...statistics }) => ({
            name,
            'admin-status': admin === '1' ? 'up' : 'down',
            'oper-status': oper === '1' ? 'up' : 'down',
            statistics,
          })),
        },
      },
      null,
      2,
    )
  } finally {
    session.close()
  }
}

/** Rows of the table by their index. */
async function table(session: Session): Promise<Map<string, Record<string, string>>> {
  const rows = new Map<string, Record<string, string>>()
  let cells = 0
  await new Promise<void>((resolve, reject) => {
    session.subtree(
      TABLE,
      20,
      (varbinds) => {
        for (const { oid, value } of varbinds) {
          if (++cells > MOST) return reject(new Error(`its table of ports has more than ${MOST} cells`))
          const [column = '', index = ''] = oid.slice(TABLE.length + 1).split('.')
          const name = COLUMNS[column]
          if (name !== undefined) rows.set(index, { ...rows.get(index), [name]: String(value) })
        }
      },
      (error) => (error ? reject(error) : resolve()),
    )
  })
  return rows
}
