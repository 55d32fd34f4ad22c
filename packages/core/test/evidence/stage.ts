/** A small pack of evidence, made and signed as the server makes one. */
import { generateKeyPairSync, sign, type KeyObject } from 'node:crypto'
import {
  auditSnapshot,
  dialectById,
  fingerprintWithKey,
  maskWithKey,
  readBenchmark,
  readSnapshot,
  type Dialect,
} from '../../src/index.ts'
import type { Waiver } from '../../src/audit/index.ts'
import type { AttestationAnswer } from '../../src/benchmarks/index.ts'
import {
  COUNTERSIGNATURES,
  countersigned,
  MANIFEST,
  notReproducedIn,
  packFiles,
  signPack,
  type Manifest,
  type PackContent,
} from '../../src/evidence/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'
import { MaskedLines } from '../../src/syntax/index.ts'
import { applyWaivers, attestedIn, countVerdicts } from '../../src/audit/index.ts'

export const BENCHMARK = `id: own
title: Own
version: '1'
statement: s
profiles: [{ id: base, title: Base }]
values:
  limit: { type: int, title: Limit, default: 1500 }
rules:
  - id: mtu
    title: MTU
    topic: Ports
    severity: low
    profile: base
    statement: s
    each: { model: interfaces, as: port, name: port.name }
    nothing: { outcome: notapplicable, note: n }
    decide:
      - { id: fits, when: { model: port.mtu == limit }, outcome: pass, note: n }
      - { id: other, outcome: fail, note: '\${port.name} has \${port.mtu}, not \${limit}.' }
  - id: server
    title: Time server
    topic: Time
    severity: high
    profile: base
    statement: s
    decide:
      - { id: there, when: { line: ntp server ... }, outcome: pass, note: n }
      - { id: missing, outcome: fail, note: There is none. }
  - id: public
    title: No default community
    topic: SNMP
    severity: high
    profile: base
    statement: s
    decide:
      - { id: default, when: { line: snmp-server community public ... }, outcome: fail, note: It is the default one. }
      - { id: other, outcome: pass, note: n }
attestations:
  - id: trained
    title: Trained
    topic: People
    severity: low
    profile: base
    question: Are they?
    evidence: e
    days: 30
`
const CONFIGS: Readonly<Record<string, string>> = {
  core: 'hostname core\nntp server 10.40.0.11\nsnmp-server community public RO\ninterface Vlan10\n mtu 1500\n',
  edge: 'hostname edge\ninterface Vlan10\n mtu 9000\ninterface Vlan20\n mtu 1500\n',
}

export const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
export const text = (one: Uint8Array | undefined): string => new TextDecoder().decode(one)
export const KEYS = generateKeyPairSync('ed25519')
export const OTHER_KEYS = generateKeyPairSync('ed25519')
export const rawKey = (key: KeyObject): Uint8Array =>
  new Uint8Array(key.export({ format: 'der', type: 'spki' }).subarray(12))
export const signer =
  (key: KeyObject) =>
  (message: Uint8Array): Uint8Array =>
    new Uint8Array(sign(null, message, key))

export const JUDGED_AT = '2026-11-16T08:00:00.000Z'
export const MADE_AT = '2026-11-17T09:00:00.000Z'
const WAIVERS: readonly Waiver[] = [
  {
    benchmark: 'own',
    rule: 'mtu',
    device: 'edge',
    subject: null,
    reason: 'Until the carrier is changed',
    owner: 'Isolde Wren',
    expires: '2027-03-01T00:00:00Z',
  },
]
const ANSWERED: readonly AttestationAnswer[] = [
  {
    benchmark: 'own',
    attestation: 'trained',
    outcome: 'pass',
    note: 'In October',
    by: 'Orla Finch',
    at: '2026-11-01T10:00:00Z',
    until: '2026-12-01T10:00:00Z',
    files: [],
  },
]

/** Files that come under the head, and what the manifest says beside them. */
export function stage({ masked = true, before = false }: { masked?: boolean; before?: boolean } = {}): {
  files: Map<string, Uint8Array>
  about: Parameters<typeof signPack>[1]
} {
  const mask = maskWithKey(new Uint8Array(32).fill(7))
  const fingerprint = fingerprintWithKey(new Uint8Array(32).fill(7))
  const shown = (config: string): string =>
    masked
      ? new MaskedLines(readRecord(config, 'indented'), dialectById('indented') as Dialect, mask).all().join('\n')
      : config
  const snapshot = readSnapshot([
    { path: 'snapshot.yaml', bytes: bytes('title: November\ntakenAt: 2026-11-16T06:30:00Z\n') },
    ...Object.entries(CONFIGS).map(([name, config]) => ({ path: `devices/${name}/config.txt`, bytes: bytes(config) })),
  ])
  const benchmark = readBenchmark(BENCHMARK)
  const choice = { benchmark, profile: 'base', values: { limit: 1500 }, overrides: [], tailoring: [], only: null }
  const judged = auditSnapshot(snapshot, [choice], { build: 'test', mask, fingerprint, now: Date.parse(JUDGED_AT) })
  const verdicts = applyWaivers(judged.verdicts, WAIVERS, Date.parse(MADE_AT))
  const document = {
    ...judged,
    verdicts,
    counts: countVerdicts(verdicts, judged.counts.notselected),
    attested: attestedIn([choice], ANSWERED, Date.parse(MADE_AT)),
  }
  const content: PackContent = {
    document,
    choices: [
      { file: 'benchmarks/own.yaml', profile: 'base', values: choice.values, overrides: [], tailoring: [], only: null },
    ],
    facts: { core: { labels: { card: true }, groups: ['Shore'], sites: ['ops', 'shore'], approved: 'none' } },
    records: document.records.map(({ id, device, kind, takenAt, timeSource, fingerprint: print }) => ({
      id,
      device,
      kind,
      file: `snapshot/devices/${device}/config.txt`,
      takenAt,
      timeSource,
      fingerprint: print,
    })),
    waivers: WAIVERS,
    answers: ANSWERED,
  }
  const besides = new Map<string, Uint8Array>([
    ['snapshot/snapshot.yaml', bytes('title: November\ntakenAt: 2026-11-16T06:30:00Z\n')],
    ...Object.entries(CONFIGS).map(
      ([name, config]) => [`snapshot/devices/${name}/config.txt`, bytes(shown(config))] as const,
    ),
    ['benchmarks/own.yaml', bytes(BENCHMARK)],
    ['activity.json', bytes('[]\n')],
  ])
  const files = packFiles(content, besides, rawKey(KEYS.publicKey))
  const common = {
    engagement: { id: '1', title: 'Autumn', client: 'Merrow Sound Ferries' },
    audit: { id: '4', build: 'test', judgedAt: JUDGED_AT },
    snapshot: { title: 'November', takenAt: '2026-11-16T06:30:00Z' },
    madeAt: MADE_AT,
    madeBy: 'Isolde Wren',
    masked,
    key: { algorithm: 'Ed25519' as const, public: Buffer.from(rawKey(KEYS.publicKey)).toString('base64') },
    previous: before ? { root: '0'.repeat(64), madeAt: '2026-08-26T09:00:00Z' } : null,
    auditLog: null,
  }
  return { files, about: { ...common, notReproduced: notReproducedIn(files, common, 'masked') } }
}

/** A whole pack with its signature. */
export function signedPack(options: Parameters<typeof stage>[0] = {}): Map<string, Uint8Array> {
  const { files, about } = stage(options)
  return signPack(files, about, signer(KEYS.privateKey))
}

export function withCountersignature(
  pack: ReadonlyMap<string, Uint8Array>,
  { at = '2026-11-17T10:00:00.000Z', keys = OTHER_KEYS } = {},
): Map<string, Uint8Array> {
  const said = { by: 'Bram Teasel', at }
  const signature = signer(keys.privateKey)(countersigned(pack.get(MANIFEST) ?? new Uint8Array(), said))
  const one = {
    ...said,
    key: { algorithm: 'Ed25519', public: Buffer.from(rawKey(keys.publicKey)).toString('base64') },
    signature: Buffer.from(signature).toString('base64'),
  }
  return new Map([...pack, [COUNTERSIGNATURES, bytes(JSON.stringify([one]))]])
}

export const manifestOf = (pack: ReadonlyMap<string, Uint8Array>): Manifest =>
  JSON.parse(text(pack.get(MANIFEST))) as Manifest
