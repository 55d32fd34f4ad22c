import type { DeviceModel } from './schema/index.ts'

type Interface = DeviceModel['interfaces'][number]

/** What an interface is, by the letters of its name. Common practice. */
export function kindOfInterface(name: string): Interface['kind'] {
  const found = KINDS.find(([pattern]) => pattern.test(name))
  return found ? found[1] : 'other'
}

const KINDS: readonly [RegExp, Interface['kind']][] = [
  [/^(?:lo|loopback)\d*$/i, 'loopback'],
  [/^(?:lo|loopback)/i, 'loopback'],
  [/^(?:port-channel|bundle-ether|po\d|ae\d|bond|lag)/i, 'aggregate'],
  [/^(?:vlan|irb|vl\d)/i, 'vlan'],
  [/^(?:tunnel|tun|gre|st\d|gr-|ip-|wg|vti|ipsec|macsec)/i, 'tunnel'],
  [/^(?:mgmt|management|fxp|em\d|me\d|vme)/i, 'management'],
  [/^(?:serial|se\d|t1-|e1-)/i, 'serial'],
  [/^(?:br|bvi|bdi)/i, 'bridge'],
  [/^(?:[a-z]*ethernet|[a-z]*gige|gi|te|fa|fo|hu|eth|et-|ge-|xe-|en[ops]|wl|dummy|veth)/i, 'ethernet'],
]
