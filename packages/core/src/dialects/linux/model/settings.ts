/**
 * Settings of the Linux kernel, as they speak to the device model. Names and meaning: the kernel's own ip-sysctl
 * documentation.
 */
import type { Scope } from '../../../syntax/index.ts'
import { MappingTable, NOT_TAKEN, type Bound } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type Interface = DeviceModel['interfaces'][number]

function named(w: Writer<DeviceModel>, b: Bound): Writer<Interface> | null {
  return w.find('interfaces', { name: b.text('interface') })
}

const isOn = (b: Bound): boolean => b.number('value') > 0

/** 1: the address has to be reachable by the same interface; 2: by any (RFC 3704). */
const REVERSE_PATH = [null, 'strict', 'loose']

const SETTINGS = new MappingTable<DeviceModel>([
  ['kernel hostname <name>', (w, b) => w.at('system').set('hostname', b.text('name'))],
  [
    'kernel domainname <name>',
    (w, b) => (b.text('name') === '(none)' ? undefined : w.at('system').set('domainName', b.text('name'))),
  ],
  ['net ipv4 ip_forward <value:int>', (w, b) => w.at('system').set('forwards', isOn(b))],
  ['net ipv6 conf all forwarding <value:int>', (w, b) => w.at('system').set('forwards6', isOn(b))],
  // Read when each interface has said its own, or what new interfaces begin with.
  [
    [
      'net ipv4 conf all {rp_filter|send_redirects|proxy_arp|accept_source_route|accept_redirects} <value:int>',
      'net ipv4 conf all forwarding <value:int>',
    ],
    () => NOT_TAKEN,
  ],
  ['net ipv4 conf <interface> forwarding <value:int>', () => NOT_TAKEN],
  // Packets to 127.0.0.0/8, and rules for marks: they change what is looked up.
  [
    [
      'net ipv4 conf <interface> route_localnet 1',
      'net ipv4 conf <interface> src_valid_mark 1',
      'net bridge bridge-nf-call-iptables 1',
      'net bridge bridge-nf-call-ip6tables 1',
    ],
    () => NOT_TAKEN,
  ],
  [
    'net ipv4 conf <interface> rp_filter <value:int>',
    (w, b) => named(w, b)?.set('reversePath', REVERSE_PATH[b.number('value')] ?? null),
  ],
  ['net ipv4 conf <interface> send_redirects <value:int>', (w, b) => named(w, b)?.set('redirects', isOn(b))],
  ['net ipv4 conf <interface> proxy_arp <value:int>', (w, b) => named(w, b)?.set('proxyArp', isOn(b))],
  [
    'net ipv4 conf <interface> accept_source_route <value:int>',
    (w, b) => (isOn(b) ? w.at('system').at('services').at('sourceRouting').set('enabled', true) : undefined),
  ],
])

/** What holds for all interfaces at once: read when each has said its own. */
const FOR_ALL = new MappingTable<DeviceModel>([
  // The higher of the two numbers counts.
  [
    'net ipv4 conf all rp_filter <value:int>',
    (w, b) =>
      eachInterface(w, (one) => {
        const own = REVERSE_PATH.indexOf(one.target.reversePath)
        if (b.number('value') > own) one.set('reversePath', REVERSE_PATH[b.number('value')] ?? null)
      }),
  ],
  // Either of the two is enough.
  [
    'net ipv4 conf all send_redirects <value:int>',
    (w, b) => eachInterface(w, (one) => void (isOn(b) && one.set('redirects', true))),
  ],
  [
    'net ipv4 conf all proxy_arp <value:int>',
    (w, b) => eachInterface(w, (one) => void (isOn(b) && one.set('proxyArp', true))),
  ],
  ['net ipv4 conf all accept_redirects <value:int>', (w, b) => w.at('system').set('acceptsRedirects', isOn(b))],
  // Writing ip_forward writes all of them (ip-sysctl); one that differs was written since.
  [
    'net ipv4 conf <interface> forwarding <value:int>',
    (w, b) =>
      isOn(b) === w.target.system.forwards ? w.at('system').presume('forwards', w.target.system.forwards) : NOT_TAKEN,
  ],
  // Both are needed.
  [
    'net ipv4 conf all accept_source_route 1',
    (w) =>
      w
        .at('system')
        .at('services')
        .at('sourceRouting')
        .presume('enabled', w.target.system.services.sourceRouting.enabled),
  ],
  [
    'net ipv4 conf all accept_source_route 0',
    (w) => w.at('system').at('services').at('sourceRouting').set('enabled', false),
  ],
])

/** What is left when all that bears on an answer was read. */
const REST = new MappingTable<DeviceModel>(
  [],
  [
    [
      'it concerns what runs on the device, not packets',
      ['kernel ...', 'vm ...', 'fs ...', 'dev ...', 'debug ...', 'user ...', 'abi ...', 'crypto ...', 'sunrpc ...'],
    ],
    // `sysctl -a` lists every one of the kernel's settings; those on which an answer rests are read above.
    ['no answer rests on it', ['net ...']],
  ],
)

function eachInterface(w: Writer<DeviceModel>, apply: (one: Writer<Interface>) => void): void {
  for (const one of w.every('interfaces', {})) apply(one)
}

export function readSettings(scope: Scope, write: Writer<DeviceModel>): void {
  SETTINGS.read(scope, write)
  FOR_ALL.read(scope, write)
  REST.read(scope, write)
}
