import type { Writer } from '../model/index.ts'
import type { LineTemplate, OutputForm } from './lines.ts'
import type { DeviceState } from './schema.ts'
import { withoutTail } from '../syntax/index.ts'

type Association = Writer<DeviceState['securityAssociations'][number]>
type Channel = Writer<DeviceState['secureChannels'][number]>

const ADDRESS = '(?<address>[\\da-fA-F.:]+)'

/** The association whose lines these are: its number leads, what follows tells more of it. */
function begin(w: Writer<DeviceState>, memory: Map<string, string>, spi: string): void {
  w.add('securityAssociations', {
    peer: memory.get('peer') ?? '',
    interface: memory.get('interface') ?? null,
    direction: direction(memory),
    spi: spi.toLowerCase().padStart(8, '0'),
  })
  memory.set('association', String(w.target.securityAssociations.length - 1))
}

function direction(memory: Map<string, string>): 'in' | 'out' | null {
  const word = memory.get('direction')
  return word === 'in' || word === 'out' ? word : null
}

function current(w: Writer<DeviceState>, memory: Map<string, string>): Association | null {
  return w.more('securityAssociations', Number(memory.get('association') ?? -1))
}

const ASSOCIATIONS: readonly LineTemplate[] = [
  {
    line: /^\s*[Ii]nterface:? (?<interface>[A-Za-z]\S+)$/,
    apply: (_, { interface: port = '' }, memory) => void memory.set('interface', port),
  },
  {
    line: new RegExp(`^\\s*(?:current_peer|peer|remote gateway):? ${ADDRESS}\\b`, 'i'),
    apply: (_, { address = '' }, memory) => void memory.set('peer', address),
  },
  {
    line: /^\s*(?<way>inbound|outbound) esp sas?:/i,
    apply: (_, { way = '' }, memory) => void memory.set('direction', way.toLowerCase() === 'inbound' ? 'in' : 'out'),
  },
  { line: /^\s*spi: 0x(?<spi>[\da-fA-F]{1,8})\b/i, apply: (w, { spi = '' }, memory) => begin(w, memory, spi) },
  {
    line: /^\s*(?:transform|algorithm): (?<algorithm>\S.*)$/i,
    apply: (w, { algorithm = '' }, memory) => current(w, memory)?.set('algorithm', withoutTail(algorithm, /[\s,]/)),
  },
  {
    line: /remaining (?:key )?lifetime[^:]*: \(?(?:\d+\/)?(?<seconds>\d+)\)?/i,
    apply: (w, { seconds = '' }, memory) => current(w, memory)?.set('lifetimeSeconds', Number(seconds)),
  },
  {
    line: /^\s*(?<bytes>\d+) bytes (?:en|de)crypted/i,
    apply: (w, { bytes = '' }, memory) => current(w, memory)?.set('bytes', Number(bytes)),
  },
]

/** One line an association, `<` before what comes in and `>` before what goes out. */
const TABLE: readonly LineTemplate[] = [
  {
    line: new RegExp(
      `^\\s*(?<way>[<>])\\d+\\s+(?:ESP:)?(?<algorithm>[\\w.-]+\\s*/\\s*[\\w.-]+)\\s+(?<spi>[\\da-fA-F]{1,8})\\s+(?<seconds>\\d+)/\\s*\\S+\\s+(?:\\S+\\s+){1,3}\\d+\\s+${ADDRESS}$`,
    ),
    apply: (w, { way = '', algorithm = '', spi = '', seconds = '', address = '' }) =>
      void w.add('securityAssociations', {
        peer: address,
        direction: way === '<' ? 'in' : 'out',
        algorithm: algorithm.replace(/\s/g, ''),
        spi: spi.toLowerCase().padStart(8, '0'),
        lifetimeSeconds: Number(seconds),
      }),
  },
]

/** `ip -s xfrm state` of the kernel. */
const KERNEL: readonly LineTemplate[] = [
  {
    line: new RegExp(`^src \\S+ dst ${ADDRESS}$`),
    apply: (_, { address = '' }, memory) => void memory.set('peer', address),
  },
  { line: /^\s+proto esp spi 0x(?<spi>[\da-fA-F]{1,8})\b/, apply: (w, { spi = '' }, memory) => begin(w, memory, spi) },
  {
    line: /^\s+(?:aead|enc) (?<algorithm>\S+) /,
    apply: (w, { algorithm = '' }, memory) => current(w, memory)?.set('algorithm', algorithm),
  },
  {
    line: /^\s+(?<bytes>\d+)\(bytes\),/,
    apply: (w, { bytes = '' }, memory) => current(w, memory)?.set('bytes', Number(bytes)),
  },
]

function channel(w: Writer<DeviceState>, memory: Map<string, string>): Channel | null {
  return w.more('secureChannels', Number(memory.get('channel') ?? -1))
}

function open(w: Writer<DeviceState>, memory: Map<string, string>, way: 'in' | 'out', sci: string): void {
  w.add('secureChannels', {
    interface: memory.get('interface') ?? '',
    direction: way,
    sci: sci.toLowerCase().replace(/[^\da-f]/g, ''),
    cipher: memory.get('cipher') ?? null,
    encrypts: memory.has('encrypts') ? memory.get('encrypts') === 'on' : null,
  })
  memory.set('channel', String(w.target.secureChannels.length - 1))
}

/**
 * `ip -s macsec show` of the kernel, and outputs of the indented and braced dialects with the same words in lines of
 * their own.
 */
const CHANNELS: readonly LineTemplate[] = [
  {
    line: /^\d+: (?<name>[^:@\s]+)(?:@\S+)?: protect (?<protect>on|off)\b.*? encrypt (?<encrypts>on|off)/,
    apply: (_, { name = '', encrypts = '' }, memory) => void memory.set('interface', name).set('encrypts', encrypts),
  },
  {
    line: /^\s*[Ii]nterface(?: name)?:? (?<name>[A-Za-z]\S+)$/,
    apply: (_, { name = '' }, memory) => void memory.set('interface', name),
  },
  {
    line: /^\s+cipher suite:? (?<cipher>[\w-]+)/i,
    apply: (_, { cipher = '' }, memory) => void memory.set('cipher', cipher.replace(/,$/, '')),
  },
  {
    line: /^\s+encryption:? (?<encrypts>on|off)/i,
    apply: (_, { encrypts = '' }, memory) => void memory.set('encrypts', encrypts.toLowerCase()),
  },
  { line: /^\s+TXSC: (?<sci>[\da-fA-F]{16})\b/, apply: (w, { sci = '' }, memory) => open(w, memory, 'out', sci) },
  { line: /^\s+RXSC: (?<sci>[\da-fA-F]{16})\b/, apply: (w, { sci = '' }, memory) => open(w, memory, 'in', sci) },
  {
    line: /^\s+(?<way>Inbound|Outbound) secure channels?$/i,
    apply: (_, { way = '' }, memory) => void memory.set('way', way.toLowerCase() === 'inbound' ? 'in' : 'out'),
  },
  {
    line: /^\s+SC(?:I| id):? (?<sci>[\da-fA-F:]{12,24}(?:\/\d+)?)$/i,
    apply: (w, { sci = '' }, memory) => open(w, memory, memory.get('way') === 'in' ? 'in' : 'out', sci),
  },
  {
    line: /^\s+(?:encrypted|protected) packets:? (?<packets>\d+)/i,
    apply: (w, { packets = '' }, memory) => channel(w, memory)?.set('packets', Number(packets)),
  },
]

/** IPsec and MACsec: what is really protected on the way. Words of the dialects by common practice, from memory. */
export const PROTECTION: readonly OutputForm[] = [
  { id: 'IPsec associations', kinds: ['ipsec'], looksLike: /^[ \t]*spi: 0x/im, templates: ASSOCIATIONS, noted: /^\s/ },
  {
    id: 'IPsec associations, one a line',
    kinds: ['ipsec'],
    looksLike: /^[ \t]*[<>]\d+\s/m,
    templates: TABLE,
    noted: /^\s*(?:Total active|ID\s+Algorithm)/i,
  },
  { id: 'ip xfrm state', kinds: ['ipsec'], looksLike: /^src \S+ dst \S+$/m, templates: KERNEL, noted: /^\s/ },
  {
    id: 'MACsec channels',
    kinds: ['macsec'],
    looksLike: /TXSC:|secure channel|protect (?:on|off)/i,
    templates: CHANNELS,
    noted: /^\s/,
  },
]
