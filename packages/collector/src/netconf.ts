import {
  BASE_1_0,
  BASE_1_1,
  FrameReader,
  framed,
  framingOf,
  readHello,
  readReply,
  writeHello,
  writeRpc,
  type XmlPart,
} from '@jurybox/core/netconf'
import type { Client, ClientChannel } from 'ssh2'
import { StepError } from './ladder.ts'
import type { SessionLimits } from './session.ts'

const OWN = [BASE_1_0, BASE_1_1]

/** A NETCONF session over SSH (RFC 6242): one request after the other. */
export class NetconfSession {
  readonly #frames = new FrameReader()
  readonly #messages: string[] = []
  #octets = 0
  #fault: string | null = null
  #ended = false
  #wake: () => void = () => undefined
  #asked = 0

  private constructor(
    readonly channel: ClientChannel,
    readonly limits: SessionLimits,
  ) {
    channel.on('data', (data: Buffer) => {
      this.#octets += data.length
      try {
        if (this.#octets > limits.answer) throw new Error(`more than ${limits.answer} octets came`)
        this.#messages.push(...this.#frames.push(data))
      } catch (error) {
        this.#fault ??= error instanceof Error ? error.message : String(error)
      }
      this.#wake()
    })
    channel.on('close', () => {
      this.#ended = true
      this.#wake()
    })
  }

  /** @throws StepError where the device knows no NETCONF, or greets in no way that is known */
  static async open(client: Client, limits: SessionLimits): Promise<NetconfSession> {
    const session = await new Promise<NetconfSession>((resolve, reject) =>
      client.subsys('netconf', (error, channel) =>
        error
          ? reject(new StepError('command', `the device has no NETCONF: ${error.message}`, false))
          : resolve(new NetconfSession(channel, limits)),
      ),
    )
    session.channel.write(Buffer.from(framed(writeHello({ capabilities: OWN, session: null }), 'end-of-message')))
    const hello = await session.#next('the greeting')
    try {
      session.#frames.framing = framingOf(OWN, readHello(hello).capabilities)
    } catch (error) {
      throw new StepError(
        'command',
        `the greeting of NETCONF: ${error instanceof Error ? error.message : String(error)}`,
        false,
      )
    }
    return session
  }

  /** The reply as it came. @throws StepError where there is none, or it is an error */
  async request(operation: XmlPart, what: string): Promise<string> {
    const id = String(++this.#asked)
    this.channel.write(Buffer.from(framed(writeRpc(id, operation), this.#frames.framing)))
    const message = await this.#next(what)
    let reply: ReturnType<typeof readReply>
    try {
      reply = readReply(message)
    } catch (error) {
      throw new StepError(
        'listing',
        `${what} is no reply: ${error instanceof Error ? error.message : String(error)}`,
        true,
      )
    }
    const [error] = reply.errors.filter(({ severity }) => severity === 'error')
    if (error)
      throw new StepError(
        'command',
        `${what} was refused: ${error.tag}${error.message ? `, ${error.message}` : ''}`,
        false,
      )
    if (reply.id !== id) throw new StepError('listing', `${what} was answered by the reply to another request`, true)
    return message
  }

  async #next(what: string): Promise<string> {
    for (;;) {
      const message = this.#messages.shift()
      if (message !== undefined) return message
      if (this.#fault !== null) throw new StepError('listing', `${what} is incomplete: ${this.#fault}`, false)
      if (this.#ended)
        throw new StepError('listing', `${what} did not come to its end: the device closed the connection`, true)
      const late = await new Promise<boolean>((resolve) => {
        const timer = setTimeout(() => resolve(true), this.limits.silence)
        this.#wake = () => {
          clearTimeout(timer)
          resolve(false)
        }
      })
      if (late)
        throw new StepError(
          'listing',
          `${what} did not come to its end: nothing came for ${this.limits.silence / 1000} s`,
          true,
        )
    }
  }
}

/**
 * A command of a command set as an operation: `get-config running`, or `get NAME NAMESPACE` for one container of the
 * state.
 * @throws Error where it is neither
 */
export function operationOf(command: string): XmlPart {
  const [verb = '', name = '', namespace = ''] = command.split(' ')
  if (verb === 'get-config' && name !== '') return ['get-config', [['source', [[name, null]]]]]
  if (verb === 'get' && namespace !== '')
    return ['get', [['filter', [[name, null, { xmlns: namespace }]], { type: 'subtree' }]]]
  throw new Error(`“${command}” is no operation of NETCONF that is known`)
}
