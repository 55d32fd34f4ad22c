import { z } from 'zod'
import { addressWords } from '../../model/index.ts'
import { CoreError } from '../../syntax/index.ts'
import type { Packet } from '../../headers/index.ts'
import type { Network } from '../network/network.ts'
import { interfaceNamed } from '../network/interfaces.ts'

/** A question that cannot be put, in words. */
export class AskError extends CoreError {
  constructor(message: string) {
    super('question', message)
  }
}

const port = z.coerce.number().int().min(0).max(65535).optional()

/** One packet, and where it is: as the command line, the API and files of questions state it. */
export const traceQuestionSchema = z.object({
  at: z.string().min(1),
  src: z.string().min(1),
  dst: z.string().min(1),
  proto: z.union([z.string(), z.number()]),
  sport: port,
  dport: port,
})
export type TraceQuestion = z.infer<typeof traceQuestionSchema>

const PROTOCOLS: Readonly<Record<string, number>> = { tcp: 6, udp: 17, icmp: 1 }

/** The packet that a question is about: of TCP the first of a connection, of ICMP a request. @throws AskError */
export function packetAsked({ src, dst, proto, sport, dport }: TraceQuestion): Packet {
  const family = src.includes(':') ? 'ipv6' : 'ipv4'
  for (const address of [src, dst])
    if (!addressWords(address, family))
      throw new AskError(
        `"${address}" is not ${family === 'ipv6' ? 'an IPv6 address, as the source is' : 'an address'}`,
      )
  const word = String(proto)
  const protocol =
    word === 'icmp' && family === 'ipv6'
      ? 58
      : (PROTOCOLS[word] ?? (/^\d+$/.test(word) && Number(word) <= 255 ? Number(word) : null))
  if (protocol === null)
    throw new AskError(`"${word}" is not a protocol (expected tcp, udp, icmp or a number from 0 to 255)`)
  const [ported, icmp] = [[6, 17, 33, 132, 136].includes(protocol), protocol === 1 || protocol === 58]
  return {
    family,
    source: src,
    destination: dst,
    protocol,
    fragment: false,
    dscp: 0,
    // A port that nobody names is one that a client would draw (RFC 6335 §6).
    sourcePort: ported ? (sport ?? 49152) : null,
    destinationPort: ported ? (dport ?? 0) : null,
    icmpType: icmp ? (protocol === 1 ? 8 : 128) : null,
    icmpCode: icmp ? 0 : null,
    tcpFlags: protocol === 6 ? ['syn'] : null,
  }
}

/** `DEVICE` or `DEVICE:INTERFACE`; `port` -1: the device itself. @throws AskError where a text names neither */
export function pointAt({ devices }: Network, text: string): { readonly device: number; readonly port: number } {
  const device = devices.findIndex(({ name }) => text === name || text.startsWith(`${name}:`))
  const owner = devices[device]
  if (!owner)
    throw new AskError(`There is no device "${text}". Devices: ${devices.map(({ name }) => name).join(', ')}.`)
  if (text === owner.name) return { device, port: -1 }
  const named = interfaceNamed(owner.interfaces, text.slice(owner.name.length + 1))
  if (!named)
    throw new AskError(
      `${owner.name} has no interface "${text.slice(owner.name.length + 1)}" (it has ` +
        `${owner.interfaces.map(({ name }) => name).join(', ')})`,
    )
  return { device, port: owner.interfaces.indexOf(named) }
}
