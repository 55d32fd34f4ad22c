/** Makes a pack of evidence: the files of an audit, the list of their hashes, and the signature over it. */
import type { AuditDocument, Waiver } from '../audit/index.ts'
import type { AttestationAnswer } from '../benchmarks/index.ts'
import {
  ANSWERS,
  AUDIT,
  CHOICES,
  FACTS,
  RECORDS,
  WAIVERS,
  type PackedChoice,
  type PackedFacts,
  type PackedRecords,
} from './content.ts'
import { base64Of } from './base64.ts'
import { HOW_TO_CHECK } from './how-to-check.ts'
import {
  MANIFEST,
  SIGNATURE,
  SUMS,
  manifestSchema,
  rootOf,
  sumsOf,
  writeSums,
  type Manifest,
  type NotReproduced,
  type PackFiles,
} from './manifest.ts'
import { recompute } from './recompute.ts'

/** What a pack is made of, beside the files of records, benchmarks and answers. */
export interface PackContent {
  readonly document: AuditDocument
  readonly choices: readonly PackedChoice[]
  readonly facts: PackedFacts
  readonly records: PackedRecords
  readonly waivers: readonly Waiver[]
  readonly answers: readonly AttestationAnswer[]
}

export const HOW_TO_CHECK_FILE = 'HOW-TO-CHECK.md'
export const KEY_FILE = 'key.pem'

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text)
const json = (value: unknown): Uint8Array => bytesOf(`${JSON.stringify(value, null, 1)}\n`)

/**
 * All files of a pack that come under its head.
 * @param besides snapshot folders, benchmarks, files of answers, and what else belongs to the evidence, by path
 * @param publicKey Ed25519 (RFC 8032), 32 bytes
 */
export function packFiles(content: PackContent, besides: PackFiles, publicKey: Uint8Array): Map<string, Uint8Array> {
  return new Map([
    ...besides,
    [AUDIT, json(content.document)],
    [CHOICES, json(content.choices)],
    [FACTS, json(content.facts)],
    [RECORDS, json(content.records)],
    [WAIVERS, json(content.waivers)],
    [ANSWERS, json(content.answers)],
    [KEY_FILE, bytesOf(pemOf(publicKey))],
    [HOW_TO_CHECK_FILE, bytesOf(HOW_TO_CHECK)],
  ])
}

/**
 * Verdicts that do not come out again of what the files hold, as the manifest says it.
 * @param why what keeps them from it
 * @throws PackContentError where a file is not as its format says
 */
export function notReproducedIn(
  files: PackFiles,
  about: Pick<Manifest, 'audit' | 'madeAt'>,
  why: NotReproduced['why'],
): NotReproduced[] {
  return recompute(files, about).differing.map(({ device, benchmark, rule }) => ({ device, benchmark, rule, why }))
}

/** Adds the list of hashes, the manifest and its signature. */
export function signPack(
  files: PackFiles,
  about: Omit<Manifest, 'format' | 'schema' | 'files' | 'root'>,
  sign: (message: Uint8Array) => Uint8Array,
): Map<string, Uint8Array> {
  const sums = sumsOf(files)
  const manifest = json(
    manifestSchema.parse({
      format: 'jurybox-evidence',
      schema: 1,
      ...about,
      files: sums.length,
      root: rootOf(sums),
    } satisfies Manifest),
  )
  return new Map([...files, [SUMS, bytesOf(writeSums(sums))], [MANIFEST, manifest], [SIGNATURE, sign(manifest)]])
}

/** SubjectPublicKeyInfo of an Ed25519 key (RFC 8410 §4), as `openssl` reads it. */
export function pemOf(publicKey: Uint8Array): string {
  const info = [0x30, 0x2a, 0x30, 0x05, 0x06, 0x03, 0x2b, 0x65, 0x70, 0x03, 0x21, 0x00, ...publicKey]
  return `-----BEGIN PUBLIC KEY-----\n${base64Of(Uint8Array.from(info))}\n-----END PUBLIC KEY-----\n`
}
