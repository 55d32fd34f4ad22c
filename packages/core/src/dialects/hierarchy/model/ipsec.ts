/** Tunnels that are agreed by IKE: proposals, policies, gateways and what is bound to them. */
import { partly, type Bound, type Mapping } from '../../../model/mapping.ts'
import { secretOfHierarchy } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

const IKE: readonly Mapping<DeviceModel>[] = [
  [
    'security ike proposal <name> authentication-method <how>',
    (w, b) => ike(w, b).set('authentication', b.text('how')),
  ],
  [
    'security ike proposal <name> encryption-algorithm <algorithm>',
    (w, b) => ike(w, b).push('encryption', b.text('algorithm')),
  ],
  [
    'security ike proposal <name> authentication-algorithm <algorithm>',
    (w, b) => ike(w, b).push('integrity', b.text('algorithm')),
  ],
  ['security ike proposal <name> dh-group <group>', (w, b) => ike(w, b).push('groups', b.text('group'))],
  [
    'security ike proposal <name> lifetime-seconds <seconds:int>',
    (w, b) => ike(w, b).set('lifetimeSeconds', b.number('seconds')),
  ],
  ['security ike proposal <name> description ...', (w, b) => ike(w, b)],
  ['security ike proposal <name> ...', (w, b) => partly(ike(w, b))],
  [
    'security ike policy <name> pre-shared-key {ascii-text|hexadecimal} <secret>',
    (w, b) => void [ikePolicy(w, b), peer(w, b).set('secret', secretOfHierarchy(b.text('secret'), w.provenance.mask))],
  ],
  [
    'security ike policy <name> proposals <proposal>',
    (w, b) =>
      void [ikePolicy(w, b).push('proposals', b.text('proposal')), peer(w, b).set('proposal', b.text('proposal'))],
  ],
  ['security ike policy <name> proposal-set <set>', (w, b) => ikePolicy(w, b).set('proposalSet', b.text('set'))],
  ['security ike policy <name> mode <mode>', (w, b) => ikePolicy(w, b).set('mode', b.text('mode'))],
  ['security ike policy <name> {description|certificate|reauth-frequency} ...', (w, b) => ikePolicy(w, b)],
  ['security ike policy <name> ...', (w, b) => partly(ikePolicy(w, b))],
  [
    'security ike gateway <name> address <address>',
    (w, b) => void [gateway(w, b).set('address', b.text('address')), peer(w, b).set('address', b.text('address'))],
  ],
  ['security ike gateway <name> ike-policy <policy>', (w, b) => gateway(w, b).set('policy', b.text('policy'))],
  [
    'security ike gateway <name> external-interface <interface>',
    (w, b) => gateway(w, b).set('interface', b.text('interface')),
  ],
  ['security ike gateway <name> local-address <address>', (w, b) => gateway(w, b).set('interface', b.text('address'))],
  [
    'security ike gateway <name> version <version>',
    (w, b) => gateway(w, b).set('version', b.text('version').startsWith('v2') ? 2 : 1),
  ],
  [
    'security ike gateway <name> {dead-peer-detection|local-identity|remote-identity|nat-keepalive|no-nat-traversal|general-ikeid|description|fragmentation} ...',
    (w, b) => gateway(w, b),
  ],
  ['security ike gateway <name> ...', (w, b) => partly(gateway(w, b))],
]

const ESP: readonly Mapping<DeviceModel>[] = [
  [
    'security ipsec proposal <name> {encryption-algorithm|authentication-algorithm|protocol} <algorithm>',
    (w, b) => esp(w, b).push('algorithms', b.text('algorithm')),
  ],
  [
    'security ipsec proposal <name> lifetime-seconds <seconds:int>',
    (w, b) => esp(w, b).set('lifetimeSeconds', b.number('seconds')),
  ],
  ['security ipsec proposal <name> {lifetime-kilobytes|description} ...', (w, b) => esp(w, b)],
  ['security ipsec proposal <name> ...', (w, b) => partly(esp(w, b))],
  [
    'security ipsec policy <name> perfect-forward-secrecy keys <group>',
    (w, b) => ipsecPolicy(w, b).set('pfs', b.text('group')),
  ],
  [
    'security ipsec policy <name> proposals <proposal>',
    (w, b) => ipsecPolicy(w, b).push('proposals', b.text('proposal')),
  ],
  ['security ipsec policy <name> proposal-set <set>', (w, b) => ipsecPolicy(w, b).set('proposalSet', b.text('set'))],
  ['security ipsec policy <name> description ...', (w, b) => ipsecPolicy(w, b)],
  ['security ipsec policy <name> ...', (w, b) => partly(ipsecPolicy(w, b))],
  ['security ipsec vpn <name> bind-interface <interface>', (w, b) => vpn(w, b).set('interface', b.text('interface'))],
  ['security ipsec vpn <name> ike gateway <gateway>', (w, b) => vpn(w, b).set('gateway', b.text('gateway'))],
  ['security ipsec vpn <name> ike ipsec-policy <policy>', (w, b) => vpn(w, b).set('policy', b.text('policy'))],
  ['security ipsec vpn <name> {establish-tunnels|vpn-monitor|df-bit|copy-outer-dscp} ...', (w, b) => vpn(w, b)],
  [
    'security ipsec vpn <name> ike {proxy-identity|idle-time|install-interval|anti-replay-window-size|no-anti-replay} ...',
    (w, b) => vpn(w, b),
  ],
  ['security ipsec vpn <name> ...', (w, b) => partly(vpn(w, b))],
]

function ike(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ikeProposals'][number]> {
  return w.entry('ikeProposals', { name: b.text('name') })
}

function ikePolicy(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ikePolicies'][number]> {
  return w.entry('ikePolicies', { name: b.text('name') })
}

function gateway(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ikeGateways'][number]> {
  return w.entry('ikeGateways', { name: b.text('name') })
}

function peer(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ipsecPeers'][number]> {
  return w.entry('ipsecPeers', { name: b.text('name') })
}

function esp(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['espProposals'][number]> {
  return w.entry('espProposals', { name: b.text('name') })
}

function ipsecPolicy(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ipsecPolicies'][number]> {
  return w.entry('ipsecPolicies', { name: b.text('name'), kind: 'policy' })
}

function vpn(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['vpns'][number]> {
  return w.entry('vpns', { name: b.text('name') })
}

/**
 * What the software's own sets of proposals hold (common practice, from memory; some versions differ): others are
 * unknown.
 */
const IKE_SETS: Readonly<Record<string, Partial<DeviceModel['ikeProposals'][number]>>> = {
  basic: { encryption: ['des-cbc'], integrity: ['sha1', 'md5'], groups: ['group1'] },
  compatible: { encryption: ['3des-cbc', 'des-cbc'], integrity: ['sha1', 'md5'], groups: ['group2'] },
  standard: { encryption: ['3des-cbc', 'aes-128-cbc'], integrity: ['sha1'], groups: ['group2'] },
  'suiteb-gcm-128': { encryption: ['aes-128-cbc'], integrity: ['sha-256'], groups: ['group19'] },
  'suiteb-gcm-256': { encryption: ['aes-256-cbc'], integrity: ['sha-384'], groups: ['group20'] },
}
const ESP_SETS: Readonly<Record<string, { readonly algorithms: string[]; readonly pfs?: string }>> = {
  basic: { algorithms: ['des-cbc', 'hmac-sha1-96', 'hmac-md5-96'] },
  compatible: { algorithms: ['3des-cbc', 'des-cbc', 'hmac-sha1-96', 'hmac-md5-96'] },
  standard: { algorithms: ['3des-cbc', 'aes-128-cbc', 'hmac-sha1-96'], pfs: 'group2' },
  'suiteb-gcm-128': { algorithms: ['aes-128-gcm'] },
  'suiteb-gcm-256': { algorithms: ['aes-256-gcm'] },
}

/**
 * A policy that names a set of the software's own has its proposals; what a set that is not known holds, nobody says.
 */
export function proposalsOfSets(w: Writer<DeviceModel>): void {
  w.target.ikePolicies.forEach(({ proposalSet }, i) => {
    if (proposalSet === null) return
    const name = `proposal-set ${proposalSet}`
    if (!w.find('ikeProposals', { name }))
      w.provenance.origins.note(w.add('ikeProposals', { name, ...IKE_SETS[proposalSet] }).place, null, {
        kind: 'of',
        path: `ikePolicies[${i}].proposalSet`,
      })
    w.entryAt('ikePolicies', i)?.presume('proposals', [...(w.target.ikePolicies[i]?.proposals ?? []), name])
  })
  w.target.ipsecPolicies.forEach(({ proposalSet }, i) => {
    if (proposalSet === null) return
    const name = `proposal-set ${proposalSet}`
    if (!w.find('espProposals', { name }))
      w.provenance.origins.note(
        w.add('espProposals', { name, algorithms: ESP_SETS[proposalSet]?.algorithms ?? [] }).place,
        null,
        { kind: 'of', path: `ipsecPolicies[${i}].proposalSet` },
      )
    const policy = w.entryAt('ipsecPolicies', i)
    policy?.presume('proposals', [...policy.target.proposals, name])
    if (policy?.target.pfs === null) policy.presume('pfs', ESP_SETS[proposalSet]?.pfs ?? null)
  })
}

/** The interface that a tunnel is bound to: where it begins, where it ends and what protects it. */
export function bindTunnels(w: Writer<DeviceModel>): void {
  const { ikeGateways, vpns } = w.target
  vpns.forEach(({ interface: bound, gateway: named, policy }, i) => {
    const at = ikeGateways.findIndex(({ name }) => name === named)
    const peerOf = ikeGateways[at]
    const tunnel = bound === null ? null : (w.find('interfaces', { name: bound })?.at('tunnel') ?? null)
    if (!tunnel || !peerOf) return
    const { origins } = w.provenance
    tunnel
      .presume('source', peerOf.interface)
      .presume('destination', peerOf.address)
      .presume('mode', 'ipsec')
      .presume('protection', policy)
    origins.note(tunnel.place, 'source', { kind: 'of', path: `ikeGateways[${at}].interface` })
    origins.note(tunnel.place, 'destination', { kind: 'of', path: `ikeGateways[${at}].address` })
    origins.note(tunnel.place, 'protection', { kind: 'of', path: `vpns[${i}].policy` })
  })
}

/**
 * Proposals of IKE have the version of the gateways that use them; a gateway that states none speaks version 1 (common
 * practice).
 */
export function settleVersions(w: Writer<DeviceModel>): void {
  for (const one of w.every('ikeGateways', {})) if (one.target.version === null) one.presume('version', 1)
  for (const proposal of w.every('ikeProposals', {})) {
    const policies = w.target.ikePolicies
      .filter(({ proposals }) => proposals.includes(proposal.target.name))
      .map(({ name }) => name)
    const versions = w.target.ikeGateways
      .filter(({ policy }) => policy !== null && policies.includes(policy))
      .map(({ version }) => version ?? 1)
    proposal.presume('version', versions.length === 0 ? 1 : Math.min(...versions))
  }
}

export const IPSEC: readonly Mapping<DeviceModel>[] = [...IKE, ...ESP]
