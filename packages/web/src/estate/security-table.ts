import type { DeviceModel } from '@jurybox/core'
import { t } from '../messages/index.ts'
import { dayOf } from '../shared/time.ts'
import { secretText } from './model-rows.ts'
import { beside, said, saidColumn, words, type Part, type SaidRow, type SaidTableOf, type Word } from './said-cells.ts'

/** Zones and their policies, address translation, tunnels and certificates. */
export function securityTable(model: DeviceModel): SaidTableOf {
  return {
    title: t('estate.securityOfDevice'),
    columns: [
      saidColumn('type', t('common.type')),
      saidColumn('name', t('common.name')),
      saidColumn('content', t('estate.content')),
    ],
    rows: [
      ...model.zones.map(({ name, interfaces }, i) =>
        row(t('estate.zone'), said(`zones[${i}]`, name), [words(interfaces.join(' '), { mono: true })]),
      ),
      ...model.zonePolicies.map((policy, i) =>
        row(
          t('estate.policy'),
          said(`zonePolicies[${i}]`, policy.name),
          [
            said(`zonePolicies[${i}].action`, policy.action),
            ...beside(
              policy.sources.length > 0 && `from ${policy.sources.join(' ')}`,
              policy.destinations.length > 0 && `to ${policy.destinations.join(' ')}`,
              policy.applications.length > 0 && `for ${policy.applications.join(' ')}`,
              policy.logged ? 'logged' : t('estate.notLogged'),
            ),
          ],
          t('estate.range', { from: policy.from, to: policy.to }),
        ),
      ),
      ...model.nat.map(({ kind, statement }, i) =>
        row(t('estate.nat'), said(`nat[${i}]`, kind), [words(statement, { mono: true })]),
      ),
      ...model.ikeProposals.map((proposal, i) =>
        row(
          t('estate.ikeVersion', { version: proposal.version }),
          said(`ikeProposals[${i}]`, proposal.name),
          joined(
            proposal.encryption.join(' '),
            proposal.integrity.join(' '),
            proposal.groups.length > 0 && `group ${proposal.groups.join(' ')}`,
            proposal.authentication,
            seconds(proposal.lifetimeSeconds),
          ),
        ),
      ),
      ...model.espProposals.map((proposal, i) =>
        row(
          'IPsec',
          said(`espProposals[${i}]`, proposal.name),
          joined(proposal.algorithms.join(' '), proposal.mode, seconds(proposal.lifetimeSeconds)),
        ),
      ),
      ...model.ipsecPolicies.map((policy, i) =>
        row(
          t('estate.iPsecPolicy'),
          said(`ipsecPolicies[${i}]`, policy.name),
          joined(
            policy.proposals.join(' '),
            policy.pfs && t('estate.pfs', { pfs: policy.pfs }),
            seconds(policy.lifetimeSeconds),
          ),
        ),
      ),
      ...model.ipsecPeers.map((peer, i) =>
        row(
          t('estate.peer'),
          said(`ipsecPeers[${i}]`, peer.name),
          joined(
            peer.address,
            peer.proposal,
            peer.selector && t('estate.trafficOf', { selector: peer.selector }),
            peer.secret && secretText(peer.secret),
          ),
        ),
      ),
      ...model.trustPoints.flatMap(certificatesOf),
      ...model.macsec.map(({ name, cipher }, i) => row('MACsec', said(`macsec[${i}]`, name), joined(cipher))),
    ],
  }
}

function certificatesOf(point: DeviceModel['trustPoints'][number], i: number): SaidRow[] {
  if (point.certificates.length === 0)
    return [
      row(
        t('estate.trustPoint'),
        said(`trustPoints[${i}]`, point.name),
        beside(point.subject, point.revocationCheck && `revocation: ${point.revocationCheck}`),
      ),
    ]
  return point.certificates.map((certificate, c) =>
    row(
      t('estate.certificate'),
      said(`trustPoints[${i}].certificates[${c}]`, point.name),
      [
        words(certificate.subject ?? t('estate.notDecoded')),
        ...beside(
          key(certificate.keyKind, certificate.keyBits),
          certificate.signature,
          until(certificate.notAfter),
        ).map((part) => ({ ...part, below: true })),
      ],
      certificate.role,
    ),
  )
}

const row = (type: string, name: Part, content: readonly Part[], note: string | null = null): SaidRow => ({
  id: name.path ?? type,
  cells: {
    type: [words(type)],
    name: note === null ? [name] : [name, words(note, { quiet: true, below: true })],
    content,
  },
})
/** As words of full weight. */
const joined = (...texts: readonly Word[]): Part[] => beside(...texts).map(({ text }) => words(text ?? ''))
const seconds = (lifetime: number | null): string | false => lifetime !== null && `${lifetime} s`
const key = (kind: string | null, bits: number | null): string | null =>
  kind === null ? null : bits === null ? kind : `${kind} ${bits} bits`
/** A certificate's validity, as days that an auditor reads at a glance. */
const until = (notAfter: string | null): string =>
  notAfter === null ? '' : t('estate.validUntil', { notAfter: dayOf(notAfter) })
