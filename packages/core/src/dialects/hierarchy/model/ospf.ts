import { partly, type Bound, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { protocols, vrfOf } from './protocol-path.ts'

function ospf(w: Writer<DeviceModel>, b: Bound, version = 2): Writer<DeviceModel['ospf'][number]> {
  return w.entry('ospf', { process: '1', version, vrf: vrfOf(b) })
}

export const OSPF: readonly Mapping<DeviceModel>[] = [...(['ospf', 'ospf3'] as const).flatMap((word) => ospfOf(word))]

/** What both versions say alike. */
function ospfOf(word: 'ospf' | 'ospf3'): Mapping<DeviceModel>[] {
  const version = word === 'ospf' ? 2 : 3
  const at = `${word} area <area> interface <interface>`
  /** `all`: every interface that is not named itself. */
  const on = (w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['interfaces'][number]>[] => {
    areaInterface(w, b, version)
    const named = own(w, b)
    return named ? [named] : []
  }
  return [
    protocols(
      `${at} passive ...`,
      (w, b) =>
        void [
          ospf(w, b, version).push('passive', b.text('interface')),
          on(w, b).forEach((one) => one.at('ospf').set('passive', true)),
        ],
    ),
    protocols(
      `${at} disable`,
      (w, b) =>
        void [
          ospf(w, b, version).push('disabled', b.text('interface')),
          on(w, b).forEach((one) => one.at('ospf').set('area', null)),
        ],
    ),
    protocols(`${at} metric <cost:int>`, (w, b) =>
      on(w, b).forEach((one) => one.at('ospf').set('cost', b.number('cost'))),
    ),
    protocols(`${at} hello-interval <seconds:int>`, (w, b) =>
      on(w, b).forEach((one) => one.at('ospf').set('helloSeconds', b.number('seconds'))),
    ),
    protocols(`${at} dead-interval <seconds:int>`, (w, b) =>
      on(w, b).forEach((one) => one.at('ospf').set('deadSeconds', b.number('seconds'))),
    ),
    protocols(`${at} interface-type <network>`, (w, b) =>
      on(w, b).forEach((one) => one.at('ospf').set('network', b.text('network'))),
    ),
    protocols(`${at} authentication md5 ...`, (w, b) => authenticated(w, b, version, 'message-digest', on)),
    protocols(`${at} authentication keychain <chain>`, (w, b) =>
      authenticated(w, b, version, `key-chain ${b.text('chain')}`, on),
    ),
    protocols(`${at} authentication keychains <chain>`, (w, b) =>
      authenticated(w, b, version, `key-chain ${b.text('chain')}`, on),
    ),
    protocols(`${at} authentication simple-password ...`, (w, b) => authenticated(w, b, version, 'clear', on)),
    // Version 3 is protected by IPsec (RFC 4552).
    protocols(`${at} ipsec-sa <name>`, (w, b) => authenticated(w, b, version, `ipsec ${b.text('name')}`, on)),
    protocols(at, (w, b) => on(w, b)),
    protocols(
      `${at} {priority|retransmit-interval|transit-delay|bfd-liveness-detection|te-metric|mtu|no-advertise-adjacency-segment|link-protection|node-link-protection|full-neighbors-only|demand-circuit|flood-reduction|topology|ldp-synchronization|secondary|own-router-lsa} ...`,
      (w, b) => on(w, b),
    ),
    protocols(`${at} ...`, (w, b) => partly(on(w, b))),
    protocols([`${word} area <area> stub ...`, `${word} area <area> nssa ...`], (w, b, s) =>
      ospf(w, b, version)
        .entry('areas', { id: b.text('area') })
        .set('kind', s.command.lowerWords.find((one) => one === 'stub' || one === 'nssa') ?? null),
    ),
    protocols(`${word} area <area> authentication-type md5`, (w, b) =>
      ospf(w, b, version)
        .entry('areas', { id: b.text('area') })
        .set('authentication', 'message-digest'),
    ),
    protocols(`${word} area <area> authentication-type simple`, (w, b) =>
      ospf(w, b, version)
        .entry('areas', { id: b.text('area') })
        .set('authentication', 'clear'),
    ),
    protocols(`${word} area <area> virtual-link ...`, (w, b) =>
      partly(
        ospf(w, b, version)
          .entry('areas', { id: b.text('area') })
          .set('virtualLink', true),
      ),
    ),
    protocols(`${word} area <area> area-range ...`, (w, b) =>
      ospf(w, b, version).entry('areas', { id: b.text('area') }),
    ),
    protocols(`${word} export <policy>`, (w, b) =>
      ospf(w, b, version).add('redistributes', { source: 'policy', policy: b.text('policy') }),
    ),
    protocols(`${word} import <policy>`, (w, b) => ospf(w, b, version)),
    protocols(`${word} disable`, (w, b) => ospf(w, b, version).set('enabled', false)),
    protocols(`${word} ...`, (w, b) => partly(ospf(w, b, version))),
  ]
}

/** Noted at the process, since `all` names no interface. */
function authenticated(
  w: Writer<DeviceModel>,
  b: Bound,
  version: number,
  how: string,
  on: (w: Writer<DeviceModel>, b: Bound) => Writer<DeviceModel['interfaces'][number]>[],
): void {
  const found = on(w, b)
  for (const one of found) one.at('ospf').set('authentication', how)
  if (b.text('interface') === 'all') ospf(w, b, version).set('authenticationOfAll', how)
}

/** `interface all` takes in every interface of its VRF that no area names and that is not disabled there. */
export function settleOspf(w: Writer<DeviceModel>): void {
  w.target.ospf.forEach((process, i) => {
    if (process.areaOfAll === null) return
    for (const one of w.every('interfaces', {})) {
      const { name, vrf, addresses, ospf: stated } = one.target
      if (stated.area !== null || vrf !== process.vrf || addresses.length === 0 || process.disabled.includes(name))
        continue
      const own = one.at('ospf').presume('area', process.areaOfAll)
      if (stated.authentication === null) own.presume('authentication', process.authenticationOfAll)
      if (process.passive.includes('all')) own.presume('passive', true)
      w.provenance.origins.note(own.place, 'area', { kind: 'of', path: `ospf[${i}]` })
    }
  })
}

export function own(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['interfaces'][number]> | null {
  return w.find('interfaces', { name: b.text('interface') })
}

function areaInterface(w: Writer<DeviceModel>, b: Bound, version: number): void {
  ospf(w, b, version).entry('areas', { id: b.text('area') })
  if (b.text('interface') === 'all') ospf(w, b, version).set('areaOfAll', b.text('area'))
  const one = own(w, b)
  if (one && !ospf(w, b, version).target.disabled.includes(b.text('interface')))
    one.at('ospf').set('area', b.text('area'))
}
