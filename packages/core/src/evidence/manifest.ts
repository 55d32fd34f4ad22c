/** What a pack of evidence says of itself: the list of its files, the head over them, and who signed it. */
import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js'
import { z } from 'zod'
import { sha256Hex } from '../syntax/index.ts'
import { auditPath, headByPath, treeHead } from './merkle.ts'

const hex32 = z.string().regex(/^[\da-f]{64}$/, '64 hexadecimal digits')
const time = z.iso.datetime({ offset: true })
const publicKey = z.string().regex(/^[A-Za-z\d+/]{43}=$/, 'an Ed25519 public key in base64')

/** A verdict that does not come out again from what the pack holds, such as one that rests on masked secrets. */
export const notReproducedSchema = z.strictObject({
  device: z.string(),
  benchmark: z.string(),
  rule: z.string(),
  why: z.enum(['masked', 'other']),
})
export type NotReproduced = z.infer<typeof notReproducedSchema>

export const manifestSchema = z.strictObject({
  format: z.literal('jurybox-evidence'),
  schema: z.literal(1),
  engagement: z.strictObject({ id: z.string(), title: z.string(), client: z.string() }),
  audit: z.strictObject({ id: z.string(), build: z.string(), judgedAt: time }),
  snapshot: z.strictObject({ title: z.string(), takenAt: time }),
  madeAt: time,
  madeBy: z.string(),
  /** Whether secrets in the records are replaced by marks. */
  masked: z.boolean(),
  /** Lines of `SHA256SUMS`, and the head of the tree over them. */
  files: z.int().nonnegative(),
  root: hex32,
  key: z.strictObject({ algorithm: z.literal('Ed25519'), public: publicKey }),
  /** The pack before this one of the same engagement. */
  previous: z.strictObject({ root: hex32, madeAt: time }).nullable(),
  /** Head of the audit log when the pack was made. */
  auditLog: z.strictObject({ entry: z.int(), hash: z.string() }).nullable(),
  notReproduced: z.array(notReproducedSchema),
})
export type Manifest = z.infer<typeof manifestSchema>

/** A second person who signed the same manifest. */
export const countersignatureSchema = z.strictObject({
  by: z.string(),
  at: time,
  key: z.strictObject({ algorithm: z.literal('Ed25519'), public: publicKey }),
  signature: z.string().regex(/^[A-Za-z\d+/]{86}==$/, 'an Ed25519 signature in base64'),
})
export type Countersignature = z.infer<typeof countersignatureSchema>

export const MANIFEST = 'manifest.json'
export const SUMS = 'SHA256SUMS'
export const SIGNATURE = 'manifest.sig'
export const COUNTERSIGNATURES = 'countersignatures.json'
export const TIME_REQUEST = 'timestamp.tsq'
export const TIME_RESPONSE = 'timestamp.tsr'
/** What is not under the head: the manifest that holds it, and what was made of the manifest. */
export const OUTSIDE_THE_TREE: ReadonlySet<string> = new Set([
  MANIFEST,
  SUMS,
  SIGNATURE,
  COUNTERSIGNATURES,
  TIME_REQUEST,
  TIME_RESPONSE,
])

export type PackFiles = ReadonlyMap<string, Uint8Array>

/** One line of `SHA256SUMS`, as `sha256sum -c` reads it. */
export interface Summed {
  readonly path: string
  readonly sha256: string
}

/** @throws Error for a path that a line cannot hold */
export function sumsOf(files: PackFiles): Summed[] {
  return [...files]
    .map(([path, bytes]) => {
      if (/[\r\n\\]/.test(path) || path === '')
        throw new Error(`a pack cannot hold a file named ${JSON.stringify(path)}`)
      return { path, sha256: sha256Hex(bytes) }
    })
    .sort((a, b) => (a.path < b.path ? -1 : 1))
}

const lineOf = ({ sha256, path }: Summed): string => `${sha256}  ${path}`

export function writeSums(sums: readonly Summed[]): string {
  return sums.map((one) => `${lineOf(one)}\n`).join('')
}

/** Null where a line is none of `sha256sum`, or paths are not in order and each once. */
export function readSums(text: string): Summed[] | null {
  if (text !== '' && !text.endsWith('\n')) return null
  const sums = text
    .split('\n')
    .slice(0, -1)
    .map((line) => {
      const [, sha256, path] = /^([\da-f]{64}) {2}([^\r\\]+)$/.exec(line) ?? []
      return sha256 !== undefined && path !== undefined ? { sha256, path } : null
    })
  const whole = sums.filter((one) => one !== null)
  const inOrder = whole.every(({ path }, i) => i === 0 || (whole[i - 1]?.path ?? '') < path)
  return whole.length === sums.length && inOrder ? whole : null
}

const leavesOf = (sums: readonly Summed[]): Uint8Array[] => sums.map((one) => new TextEncoder().encode(lineOf(one)))

/** Head of the tree whose leaves are the lines of `SHA256SUMS`. */
export function rootOf(sums: readonly Summed[]): string {
  return bytesToHex(treeHead(leavesOf(sums)))
}

/** Shows that one file belongs to a pack, without the others. */
export const partProofSchema = z.strictObject({
  path: z.string(),
  sha256: hex32,
  index: z.int().nonnegative(),
  size: z.int().positive(),
  proof: z.array(hex32).max(40),
})
export type PartProof = z.infer<typeof partProofSchema>

/** Null where the pack has no such file. */
export function partProof(sums: readonly Summed[], path: string): PartProof | null {
  const index = sums.findIndex((one) => one.path === path)
  const sum = sums[index]
  return sum ? { ...sum, index, size: sums.length, proof: auditPath(leavesOf(sums), index).map(bytesToHex) } : null
}

/** Whether a file is the one that stands under the head of a manifest. */
export function isPartOf(bytes: Uint8Array, { path, sha256, index, size, proof }: PartProof, root: string): boolean {
  if (sha256Hex(bytes) !== sha256) return false
  const leaf = new TextEncoder().encode(lineOf({ path, sha256 }))
  const head = headByPath(leaf, { index, size, path: proof.map(hexToBytes) })
  return head !== null && bytesToHex(head) === root
}

/** How a key is told to people: the SHA-256 of its bytes, in groups of four digits. */
export function keyFingerprint(publicKeyBytes: Uint8Array): string {
  return (sha256Hex(publicKeyBytes).slice(0, 40).match(/.{4}/g) ?? []).join(' ')
}

/** Whether a fingerprint that a person gives is that of a key: spaces, colons and case do not count. */
export function isFingerprint(given: string, fingerprint: string): boolean {
  const plain = (text: string): string => text.replace(/[\s:]/g, '').toLowerCase()
  return plain(given) === plain(fingerprint)
}

/** Bytes as JSON; undefined where they are none. */
export function jsonIn(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  } catch {
    return undefined
  }
}
