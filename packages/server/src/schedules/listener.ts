import { createSocket, type Socket } from 'node:dgram'
import { readSyslog, type SyslogMessage } from '@jurybox/core/state'

/** Messages that are read in a second; what comes beyond is counted, and nothing else. */
const MOST_A_SECOND = 200

/** Listens for syslog messages (RFC 5424 over UDP, RFC 5426) on one port of its own. */
export class SyslogListener {
  #socket: Socket | null = null
  #second = 0
  #inIt = 0
  /** Messages that were not read: too many at once, or none of version 1. */
  left = 0

  /** @param heard called for each message that was read */
  constructor(readonly heard: (message: SyslogMessage, from: string) => void) {}

  get port(): number | null {
    return this.#socket?.address().port ?? null
  }

  /** @param port 0 for any that is free. @throws Error where it is taken */
  async open(port: number, address: string): Promise<void> {
    const socket = createSocket(address.includes(':') ? 'udp6' : 'udp4')
    await new Promise<void>((resolve, reject) => {
      socket.once('error', reject)
      socket.bind(port, address, () => resolve())
    })
    socket.removeAllListeners('error').on('error', () => (this.left += 1))
    socket.on('message', (data, { address: from }) => this.#take(data, from))
    this.#socket = socket.unref()
  }

  async close(): Promise<void> {
    const socket = this.#socket
    this.#socket = null
    if (socket) await new Promise<void>((resolve) => socket.close(() => resolve()))
  }

  #take(data: Buffer, from: string): void {
    const second = Math.floor(Date.now() / 1000)
    if (second !== this.#second) [this.#second, this.#inIt] = [second, 0]
    this.#inIt += 1
    const message = this.#inIt > MOST_A_SECOND ? null : readSyslog(data.toString('utf8'))
    if (message) this.heard(message, from)
    else this.left += 1
  }
}
