/** A device that speaks NETCONF: RFC 6241 over SSH (RFC 6242), with the data of RFC 7317, RFC 8343 and RFC 8349. */
import type { DeviceModel } from '@jurybox/core'
import { typedWord } from '@jurybox/core/dialects'
import {
  BASE_1_0,
  BASE_1_1,
  FrameReader,
  childOf,
  framed,
  framingOf,
  readElement,
  readHello,
  selected,
  textOf,
  writeHello,
  writeReply,
  type RpcError,
  type XmlElement,
  type XmlPart,
} from '@jurybox/core/netconf'
import type { ServerChannel } from 'ssh2'
import type { SimulatedDevice } from './device.ts'
import { editingOf } from './editing.ts'
import { subnetText } from './output-texts.ts'

const OWN = [
  BASE_1_0,
  BASE_1_1,
  'urn:ietf:params:netconf:capability:candidate:1.0',
  'urn:ietf:params:netconf:capability:confirmed-commit:1.1',
  'urn:ietf:params:netconf:capability:startup:1.0',
]
const [INTERFACES, ROUTING, SYSTEM, HARDWARE] = [
  'urn:ietf:params:xml:ns:yang:ietf-interfaces',
  'urn:ietf:params:xml:ns:yang:ietf-routing',
  'urn:ietf:params:xml:ns:yang:ietf-system',
  'urn:ietf:params:xml:ns:yang:ietf-hardware',
]
/** Seconds until a commit that nobody confirms is taken back (RFC 6241 §8.4.1). */
const CONFIRM_SECONDS = 600

let sessions = 0

class Refusal extends Error {
  constructor(readonly error: RpcError) {
    super(error.message)
  }
}
const refuse = (type: RpcError['type'], tag: string, message: string, info?: readonly XmlPart[]): never => {
  throw new Refusal({ type, tag, message, ...(info ? { info } : {}) })
}

/** One session: the hello of both sides, then one reply to each request, until it is closed. */
export class NetconfServer {
  readonly #id = String(++sessions)
  readonly #frames = new FrameReader()
  #greeted = false

  constructor(
    readonly device: SimulatedDevice,
    readonly channel: ServerChannel,
    readonly user: string,
  ) {
    this.#send(writeHello({ capabilities: OWN, session: this.#id }))
    channel.on('data', (data: Buffer) => this.#hear(data))
    channel.on('close', () => this.#letGo())
  }

  #send(message: string): void {
    this.channel.write(Buffer.from(framed(message, this.#greeted ? this.#frames.framing : 'end-of-message')))
  }

  #letGo(): void {
    if (this.device.lockedBy === this.#id) this.device.lockedBy = null
  }

  #hear(data: Buffer): void {
    try {
      for (const message of this.#frames.push(data)) this.#take(message)
    } catch {
      // What is framed in no known way ends the session (RFC 6242 §4.2).
      this.channel.end()
    }
  }

  #take(message: string): void {
    if (!this.#greeted) {
      const framing = framingOf(OWN, readHello(message).capabilities)
      this.#greeted = true
      this.#frames.framing = framing
      return
    }
    let id: string | null = null
    try {
      let rpc: XmlElement
      try {
        rpc = readElement(message)
      } catch (error) {
        return this.#send(
          writeReply(null, {
            errors: [
              {
                type: 'rpc',
                tag: 'malformed-message',
                message: error instanceof Error ? error.message : String(error),
              },
            ],
          }),
        )
      }
      id = rpc.attributes['message-id'] ?? null
      if (id === null)
        refuse('rpc', 'missing-attribute', 'a request needs a message-id', [
          ['bad-attribute', 'message-id'],
          ['bad-element', 'rpc'],
        ])
      const [operation] = rpc.children
      const data = operation
        ? this.#done(operation)
        : refuse('rpc', 'missing-element', 'a request asks for nothing', [['bad-element', 'rpc']])
      this.#send(writeReply(id, data === null ? 'ok' : { data }))
      if (operation?.name === 'close-session') this.channel.end()
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      this.#send(writeReply(id, { errors: [error.error] }))
    }
  }

  /** @returns data, or null where there is nothing to say but that it is done */
  #done(operation: XmlElement): XmlPart[] | null {
    const { device } = this
    switch (operation.name) {
      case 'get':
        return selected(
          [...this.#configured(device.record('config') ?? ''), ...this.#stated()],
          childOf(operation, 'filter'),
        )
      case 'get-config': {
        const source = childOf(operation, 'source')?.children[0]?.name
        const text =
          source === 'running'
            ? device.record('config')
            : source === 'candidate'
              ? (device.candidate ?? device.record('config'))
              : source === 'startup'
                ? (device.record('config.saved') ?? device.record('config'))
                : refuse('protocol', 'invalid-value', `there is no datastore “${source ?? ''}”`)
        return selected(this.#configured(text ?? ''), childOf(operation, 'filter'))
      }
      case 'edit-config':
        if (childOf(operation, 'target')?.children[0]?.name !== 'candidate')
          refuse('protocol', 'operation-not-supported', 'only the candidate is edited')
        this.#freeForMe()
        device.candidate = this.#edited(device.candidate ?? device.record('config') ?? '', childOf(operation, 'config'))
        return null
      case 'commit': {
        this.#freeForMe()
        const seconds = childOf(operation, 'confirmed')
          ? Number(textOf(childOf(operation, 'confirm-timeout')) ?? CONFIRM_SECONDS)
          : undefined
        const refused = device.commit(device.candidate ?? device.record('config') ?? '', this.user, seconds)
        if (refused !== null) refuse('application', 'operation-failed', refused)
        device.candidate = null
        return null
      }
      case 'discard-changes':
        this.#freeForMe()
        device.candidate = null
        return null
      case 'lock':
        if (device.lockedBy !== null)
          refuse('protocol', 'lock-denied', 'Lock failed, lock is already held', [['session-id', device.lockedBy]])
        device.lockedBy = this.#id
        return null
      case 'unlock':
        if (device.lockedBy !== this.#id) refuse('protocol', 'operation-failed', 'the lock is not held by this session')
        this.#letGo()
        return null
      case 'close-session':
        return null
      default:
        return refuse('protocol', 'operation-not-supported', `“${operation.name}” is not done here`)
    }
  }

  #freeForMe(): void {
    const { lockedBy } = this.device
    if (lockedBy !== null && lockedBy !== this.#id)
      refuse('protocol', 'in-use', 'another session holds the lock', [['session-id', lockedBy]])
  }

  #configured(text: string): XmlPart[] {
    const model = this.device.around?.modelled(this.device, text)
    return model ? [systemOf(model), interfacesOf(model)] : []
  }

  /** RFC 8343 and RFC 8349, with what the ports do now. */
  #stated(): XmlPart[] {
    const { device } = this
    const ports = device.around?.ports(device) ?? []
    const counted = device.counters
    const routes = ports
      .filter(({ oper }) => oper === 'up')
      .flatMap(({ name, addresses }) =>
        addresses
          .filter(({ address }) => !address.includes(':'))
          .map(({ address, prefixLength }): XmlPart => [
            'route',
            [
              ['destination-prefix', subnetText(address, prefixLength)],
              ['source-protocol', 'direct'],
              ['next-hop', [['outgoing-interface', name]]],
            ],
          ]),
      )
    return [
      [
        'interfaces-state',
        ports.map(({ name, admin, oper }): XmlPart => {
          const counters = counted.get(name)
          return [
            'interface',
            [
              ['name', name],
              ['admin-status', admin],
              ['oper-status', oper],
              [
                'statistics',
                [
                  ['in-octets', counters?.inOctets ?? 0],
                  ['out-octets', counters?.outOctets ?? 0],
                  ['in-errors', counters?.inErrors ?? 0],
                  ['out-errors', counters?.outErrors ?? 0],
                ],
              ],
            ],
          ]
        }),
        { xmlns: INTERFACES },
      ],
      [
        'routing',
        [
          [
            'ribs',
            [
              [
                'rib',
                [
                  ['name', 'main'],
                  ['routes', routes],
                ],
              ],
            ],
          ],
        ],
        { xmlns: ROUTING },
      ],
      [
        'hardware',
        [
          [
            'component',
            [
              ['name', 'chassis'],
              ['class', 'chassis'],
              ['software-rev', this.device.hardware.version ?? ''],
              ['serial-num', this.device.hardware.serial],
              ['model-name', this.device.hardware.model ?? ''],
            ],
          ],
        ],
        { xmlns: HARDWARE },
      ],
    ]
  }

  /** Names, descriptions and switches of interfaces, and what the system is called, as lines that are typed. */
  #edited(text: string, config: XmlElement | undefined): string {
    const editing = editingOf(text, this.device.dialect)
    const enter = (verb: 'set' | 'delete', words: readonly string[]): void => {
      const entered = editing.enter(`${verb} ${words.map(typedWord).join(' ')}`)
      if (!entered.ok && verb === 'set') refuse('application', 'invalid-value', entered.why)
    }
    for (const top of config?.children ?? []) {
      if (top.name === 'interfaces' && top.ns === INTERFACES) {
        for (const one of top.children) {
          const name =
            textOf(childOf(one, 'name')) ??
            refuse('application', 'missing-element', 'an interface has no name', [['bad-element', 'name']])
          const [port = '', unit] = name.split('.')
          const at = ['interfaces', port, ...(unit === undefined ? [] : ['unit', unit])]
          for (const leaf of one.children) {
            const gone = leaf.attributes['nc:operation'] === 'delete' || leaf.attributes['operation'] === 'delete'
            if (leaf.name === 'enabled') enter(gone || textOf(leaf) === 'true' ? 'delete' : 'set', [...at, 'disable'])
            else if (leaf.name === 'description')
              enter(gone ? 'delete' : 'set', [...at, 'description', ...(gone ? [] : [textOf(leaf) ?? ''])])
            else if (leaf.name !== 'name' && leaf.name !== 'type')
              refuse('application', 'unknown-element', `“${leaf.name}” is not known of an interface`, [
                ['bad-element', leaf.name],
              ])
          }
        }
      } else if (top.name === 'system' && top.ns === SYSTEM) {
        for (const leaf of top.children) {
          const path = {
            hostname: ['system', 'host-name'],
            contact: ['snmp', 'contact'],
            location: ['snmp', 'location'],
          }[leaf.name]
          if (!path)
            refuse('application', 'unknown-element', `“${leaf.name}” is not known of a system`, [
              ['bad-element', leaf.name],
            ])
          else enter('set', [...path, textOf(leaf) ?? ''])
        }
      } else
        refuse('application', 'unknown-namespace', `“${top.name}” is of no model that is known`, [
          ['bad-element', top.name],
          ['bad-namespace', top.ns],
        ])
    }
    return editing.text
  }
}

function systemOf({ system }: DeviceModel): XmlPart {
  const given = (name: string, value: string | null): XmlPart | null => (value === null ? null : [name, value])
  return [
    'system',
    [
      given('contact', system.snmp.contact),
      given('hostname', system.hostname),
      given('location', system.snmp.location),
      [
        'ntp',
        system.ntp.servers.map(({ address }): XmlPart => [
          'server',
          [
            ['name', address],
            ['udp', [['address', address]]],
          ],
        ]),
      ],
    ],
    { xmlns: SYSTEM },
  ]
}

function interfacesOf({ interfaces }: DeviceModel): XmlPart {
  return [
    'interfaces',
    interfaces.map(({ name, description, enabled }): XmlPart => [
      'interface',
      [
        ['name', name],
        description === null ? null : ['description', description],
        ['enabled', String(enabled !== false)],
      ],
    ]),
    { xmlns: INTERFACES },
  ]
}
