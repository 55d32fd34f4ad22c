/** Tunnels that are agreed by IKE: first and second phases, each with what it proposes. */
import { decodeCertificate } from '../../../model/certificate.ts'
import type { Bound, Mapping } from '../../../model/mapping.ts'
import { secret } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { valuesOf } from './parts.ts'

const FIRST = ['config vpn ipsec phase1-interface edit <name>', 'config vpn ipsec phase1 edit <name>']
const SECOND = ['config vpn ipsec phase2-interface edit <name>', 'config vpn ipsec phase2 edit <name>']

function ike(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ikeProposals'][number]> {
  return w.entry('ikeProposals', { name: b.text('name') })
}
function gateway(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ikeGateways'][number]> {
  const known = w.find('ikeGateways', { name: b.text('name') })
  if (known) return w.entry('ikeGateways', { name: b.text('name') })
  return w.entry('ikeGateways', { name: b.text('name') }).set('policy', b.text('name'))
}
function peer(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ipsecPeers'][number]> {
  return w.entry('ipsecPeers', { name: b.text('name') })
}
function esp(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['espProposals'][number]> {
  return w.entry('espProposals', { name: b.text('name') })
}
function ipsec(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ipsecPolicies'][number]> {
  return w.entry('ipsecPolicies', { name: b.text('name'), kind: 'policy' })
}

/** `aes256-sha256`: what encrypts, and what shows that nothing was changed; one word where one does both. */
function parts(proposal: string): { encryption: string; integrity: string | null } {
  const at = proposal.lastIndexOf('-')
  return at < 0
    ? { encryption: proposal, integrity: null }
    : { encryption: proposal.slice(0, at), integrity: proposal.slice(at + 1) }
}

const CERTIFICATES: readonly Mapping<DeviceModel>[] = (['local', 'remote', 'ca'] as const).flatMap((role) => [
  [
    `config vpn certificate ${role} edit <name> set ${role === 'local' ? 'certificate' : role} ...`,
    (w, b, s) => {
      const text = s.command.words.at(-1) ?? ''
      w.entry('trustPoints', { name: b.text('name') }).add('certificates', { role: role, ...decodeCertificate(text) })
    },
  ],
  // Its key, and how it is renewed.
  [`config vpn certificate ${role} edit <name> set * ...`, (w, b) => w.entry('trustPoints', { name: b.text('name') })],
])

export const VPN: readonly Mapping<DeviceModel>[] = [
  ...CERTIFICATES,
  ...FIRST.flatMap((block): Mapping<DeviceModel>[] => [
    ...valuesOf(block, (w, b) => ike(w, b), {
      proposal: (w, values) => {
        for (const { encryption, integrity } of values.map(parts)) {
          w.push('encryption', encryption)
          if (integrity !== null) w.push('integrity', integrity)
        }
      },
      dhgrp: (w, values) => w.push('groups', ...values.map((group) => `group${group}`)),
      keylife: (w, [value]) => w.set('lifetimeSeconds', Number(value)),
      authmethod: (w, [value = '']) => w.set('authentication', value),
    }),
    ...valuesOf(
      block,
      gateway,
      {
        'remote-gw': (w, [value = '']) => w.set('address', value),
        interface: (w, [value = '']) => w.set('interface', value),
        'ike-version': (w, [value]) => w.set('version', Number(value)),
      },
      `comments peertype net-device add-route dpd dpd-retrycount dpd-retryinterval nattraversal keepalive localid
       localid-type wizard-type auto-discovery-sender auto-discovery-receiver type`,
    ),
    [
      `${block} set mode <mode>`,
      (w, b) => w.entry('ikePolicies', { name: b.text('name') }).set('mode', b.text('mode')),
    ],
    [
      `${block} set psksecret ...`,
      (w, b, s) => peer(w, b).set('secret', secret('reversible', s.command.words.at(-1) ?? '', w.provenance.mask)),
    ],
  ]),
  ...SECOND.flatMap((block): Mapping<DeviceModel>[] => [
    ...valuesOf(block, esp, {
      proposal: (w, values) =>
        w.push('algorithms', ...values.flatMap((one) => Object.values(parts(one)).flatMap((word) => word ?? []))),
    }),
    ...valuesOf(
      block,
      ipsec,
      {
        dhgrp: (w, values) => w.set('pfs', values.map((group) => `group${group}`).join(' ')),
        pfs: (w, [value]) => w.set('pfs', value === 'disable' ? null : (w.target.pfs ?? 'group14')),
        keylifeseconds: (w, [value]) => w.set('lifetimeSeconds', Number(value)),
      },
      `comments src-addr-type dst-addr-type src-subnet dst-subnet src-name dst-name auto-negotiate keepalive keylife-type
       keylifekbs replay encapsulation protocol`,
    ),
    [
      `${block} set phase1name <gateway>`,
      (w, b) => {
        ipsec(w, b).push('proposals', b.text('name'))
        w.entry('vpns', { name: b.text('name') })
          .set('gateway', b.text('gateway'))
          .set('policy', b.text('name'))
          .set('interface', b.text('gateway'))
      },
    ],
  ]),
]
