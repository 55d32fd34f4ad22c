/** Routes that are stated, and the protocols that add others. */
import type { Bound, Mapping } from '../../../model/mapping.ts'
import { secret } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { inPart, isOn, maskedAddress, valuesOf } from './parts.ts'

type Route = DeviceModel['staticRoutes'][number]
type Neighbour = DeviceModel['bgp'][number]['neighbours'][number]

/** Where its entry says nothing else a route is the one to everywhere (common practice). */
function route(w: Writer<DeviceModel>, b: Bound, everywhere: string): Writer<Route> {
  const name = `${everywhere === '::/0' ? 'route6' : 'route'} ${b.text('id')}`
  const known = w.find('staticRoutes', { name })
  if (known) return w.entry('staticRoutes', { name })
  return w.entry('staticRoutes', { name }).presume('prefix', everywhere).presume('discard', false)
}

const FIELDS = {
  gateway: (w: Writer<Route>, [value = '']: readonly string[]) =>
    value === '0.0.0.0' || value === '::' ? w : w.set('nextHop', value),
  device: (w: Writer<Route>, [value = '']: readonly string[]) => w.set('interface', value),
  distance: (w: Writer<Route>, [value]: readonly string[]) => w.set('distance', Number(value)),
  vrf: (w: Writer<Route>, [value]: readonly string[]) => w.set('vrf', value === '0' ? null : (value ?? null)),
  blackhole: (w: Writer<Route>, values: readonly string[]) => w.set('discard', isOn(values)),
  // Where a route leads is then settled elsewhere: by names, or by measuring.
  dstaddr: (w: Writer<Route>, values: readonly string[]) => w.push('notWeighed', `dstaddr ${values.join(' ')}`),
  'internet-service': (w: Writer<Route>, values: readonly string[]) =>
    w.push('notWeighed', `internet-service ${values.join(' ')}`),
  'dynamic-gateway': (w: Writer<Route>, values: readonly string[]) =>
    isOn(values) ? w.push('notWeighed', 'dynamic-gateway') : w,
  'link-monitor-exempt': (w: Writer<Route>) => w,
  'sdwan-zone': (w: Writer<Route>, values: readonly string[]) => w.push('notWeighed', `sdwan-zone ${values.join(' ')}`),
}

const STATIC: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    'config router static edit <id>',
    (w, b) => route(w, b, '0.0.0.0/0'),
    {
      ...FIELDS,
      dst: (w, values) => {
        const stated = maskedAddress(values)
        return stated ? w.set('prefix', `${stated.address}/${stated.length}`) : inPart(w)
      },
    },
    'comment priority weight status tag',
  ),
  ...valuesOf(
    'config router static6 edit <id>',
    (w, b) => route(w, b, '::/0'),
    { ...FIELDS, dst: (w, [value = '']) => w.set('prefix', value) },
    'comment priority weight status tag',
  ),
]

const OSPF = 'config router ospf'

function ospf(w: Writer<DeviceModel>): Writer<DeviceModel['ospf'][number]> {
  return w.entry('ospf', { process: '0', version: 2 })
}

const PROTOCOLS: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    OSPF,
    ospf,
    { 'router-id': (w, [value = '']) => w.set('routerId', value) },
    'log-neighbour-changes distance',
  ),
  [
    `${OSPF} config network edit <id> set prefix <address> <mask>`,
    (w, b) => {
      const stated = maskedAddress([b.text('address'), b.text('mask')])
      return stated ? void ospf(w).entry('networks', { prefix: `${stated.address}/${stated.length}` }) : inPart(ospf(w))
    },
  ],
  // The area of a network stands beside it; which one it is of is read with its prefix.
  [`${OSPF} config network edit <id> set area <area>`, (w, b) => void ospf(w).entry('areas', { id: b.text('area') })],
  [`${OSPF} config area edit <area>`, (w, b) => void ospf(w).entry('areas', { id: b.text('area') })],
  ['config router bgp set as <as>', (w, b) => w.entry('bgp', { as: b.text('as') })],
  ['config router bgp set router-id <id>', (w, b) => bgp(w).set('routerId', b.text('id'))],
  ...valuesOf(
    'config router bgp config neighbor edit <address>',
    (w, b) => neighbour(w, b),
    {
      'remote-as': (w, [value = '']) => w.set('remoteAs', value),
      description: (w, values) => w.set('description', values.join(' ')),
      shutdown: (w, values) => w.set('enabled', !isOn(values)),
      password: (w, values) => w.set('secret', secret('reversible', values.at(-1) ?? '', w.provenance.mask)),
      'ebgp-enforce-multihop': (w, values) => w.set('multihop', isOn(values) ? 255 : null),
      'update-source': (w, [value = '']) => w.set('updateSource', value),
      'prefix-list-in': (w, [value = '']) => family(w).set('prefixListIn', value),
      'prefix-list-out': (w, [value = '']) => family(w).set('prefixListOut', value),
      'route-map-in': (w, [value = '']) => family(w).set('policyIn', value),
      'route-map-out': (w, [value = '']) => family(w).set('policyOut', value),
      'maximum-prefix': (w, [value]) => family(w).set('maximumPrefixes', Number(value)),
      'maximum-prefix-warning-only': (w, values) => family(w).set('onlyWarns', isOn(values)),
    },
    'soft-reconfiguration capability-graceful-restart keep-alive-timer holdtime-timer advertisement-interval next-hop-self',
  ),
]

function bgp(w: Writer<DeviceModel>): Writer<DeviceModel['bgp'][number]> {
  return w.entryAt('bgp', 0) ?? w.entry('bgp', { as: '' })
}

function neighbour(w: Writer<DeviceModel>, b: Bound): Writer<Neighbour> {
  return bgp(w).entry('neighbours', { address: b.text('address') })
}

function family(w: Writer<Neighbour>): Writer<Neighbour['families'][number]> {
  return w.entry('families', { family: w.target.address.includes(':') ? 'ipv6' : 'ipv4' })
}

export const ROUTING: readonly Mapping<DeviceModel>[] = [...STATIC, ...PROTOCOLS]
