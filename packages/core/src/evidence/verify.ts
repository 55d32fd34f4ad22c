/** Whether a pack of evidence is whole, signed, of its chain, and says what its own records come to. */
import { ed25519 } from '@noble/curves/ed25519.js'
import { z } from 'zod'
import {
  COUNTERSIGNATURES,
  MANIFEST,
  OUTSIDE_THE_TREE,
  SIGNATURE,
  SUMS,
  TIME_REQUEST,
  TIME_RESPONSE,
  countersignatureSchema,
  isFingerprint,
  jsonIn,
  keyFingerprint,
  manifestSchema,
  readSums,
  rootOf,
  type Manifest,
  type PackFiles,
} from './manifest.ts'
import { ACTIVITY } from './content.ts'
import { LOG_HEADS, logHeadMessage, logHeadSchema } from './log-heads.ts'
import { bytesOfBase64 } from './base64.ts'
import { sha256Hex } from '../syntax/index.ts'
import { TIME_STAMP_WORDS, readTimestamp, type TimeStamp } from './timestamp.ts'
import { readPack } from './zip.ts'
import { PackContentError, recompute, type Differing } from './recompute.ts'

/** What is wrong with a pack; `file` and `detail` say where and what. */
export interface PackFault {
  readonly code:
    | 'container-wrong'
    | 'no-manifest'
    | 'manifest-invalid'
    | 'sums-invalid'
    | 'file-missing'
    | 'file-changed'
    | 'file-added'
    | 'root-differs'
    | 'signature-missing'
    | 'signature-wrong'
    | 'other-key'
    | 'countersignature-wrong'
    | 'timestamp-wrong'
    | 'log-head-wrong'
    | 'chain-broken'
    | 'time-wrong'
    | 'content-invalid'
    | 'verdict-differs'
    | 'sum-differs'
  readonly file: string | null
  readonly detail: string
}

/** What each fault means, for people. */
export const FAULT_WORDS: Readonly<Record<PackFault['code'], string>> = {
  'container-wrong': 'The archive was changed, or is no pack of evidence.',
  'no-manifest': 'The pack has no manifest.',
  'manifest-invalid': 'The manifest is not as its format says.',
  'sums-invalid': 'The list of hashes is not as its format says.',
  'file-missing': 'A file is missing.',
  'file-changed': 'A file was changed.',
  'file-added': 'A file was added.',
  'root-differs': 'The list of hashes is not the one that was signed.',
  'signature-missing': 'The pack is not signed.',
  'signature-wrong': 'The signature is not that of the manifest.',
  'other-key': 'The pack was signed with another key.',
  'countersignature-wrong': 'A countersignature is not that of the manifest.',
  'timestamp-wrong': 'The time stamp does not hold.',
  'log-head-wrong': 'A signed head of the audit log does not hold.',
  'chain-broken': 'The pack does not follow the one before it.',
  'time-wrong': 'Its times cannot be.',
  'content-invalid': 'A file cannot be read as what it is.',
  'verdict-differs': 'A verdict is not what the records come to.',
  'sum-differs': 'A sum is not what its parts come to.',
}

export interface Signed {
  readonly by: string
  readonly at: string
  readonly fingerprint: string
}

export interface Verification {
  readonly manifest: Manifest | null
  /** Whoever signed; empty where no signature holds. */
  readonly signed: readonly Signed[]
  /** By whom its time was stamped; null where nobody did, or the stamp does not hold. */
  readonly stamped: TimeStamp | null
  readonly faults: readonly PackFault[]
  /** Null where it was not asked for, or nothing could be judged. */
  readonly recomputed: {
    readonly verdicts: number
    readonly equal: number
    /** Verdicts of which the pack itself says that they do not come out again, and that do not. */
    readonly notReproduced: number
  } | null
}

export interface Expectations {
  /** Fingerprint of the key that is trusted, spaces left out or not; null: whichever the pack names. */
  readonly key?: string | null
  /** The pack before this one; null: its chain is not looked at. */
  readonly previous?: PackFiles | null
  /** Whether verdicts are judged anew. */
  readonly recompute?: boolean
}

/** A pack as it is kept and sent. Never throws for what is in it. */
export function verifyPackBytes(bytes: Uint8Array, expectations: Expectations = {}): Verification {
  const files = readPack(bytes)
  return files
    ? verifyPack(files, expectations)
    : {
        manifest: null,
        signed: [],
        stamped: null,
        faults: [{ code: 'container-wrong', file: null, detail: '' }],
        recomputed: null,
      }
}

/** Never throws for what is in a pack: whatever is wrong with it is a fault. */
export function verifyPack(
  files: PackFiles,
  { key = null, previous = null, recompute: anew = true }: Expectations = {},
): Verification {
  const faults: PackFault[] = []
  const fault = (code: PackFault['code'], file: string | null, detail = ''): void =>
    void faults.push({ code, file, detail })
  const manifest = manifestIn(files, fault)
  if (!manifest) return { manifest: null, signed: [], stamped: null, faults, recomputed: null }
  checkFiles(files, manifest, fault)
  const signed = signaturesOf(files, manifest, key, fault)
  const stamped = stampOf(files, manifest, fault)
  checkTimes(manifest, signed, fault)
  checkLogHeads(files, manifest, fault)
  if (previous) checkChain(manifest, previous, fault)
  return { manifest, signed, stamped, faults, recomputed: anew ? judgedAnew(files, manifest, fault) : null }
}

type Report = (code: PackFault['code'], file: string | null, detail?: string) => void

function manifestIn(files: PackFiles, fault: Report): Manifest | null {
  const bytes = files.get(MANIFEST)
  if (!bytes) {
    fault('no-manifest', MANIFEST)
    return null
  }
  const parsed = manifestSchema.safeParse(jsonIn(bytes))
  if (parsed.success) return parsed.data
  const [issue] = parsed.error.issues
  fault('manifest-invalid', MANIFEST, `${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}`)
  return null
}

function checkFiles(files: PackFiles, { root, files: count }: Manifest, fault: Report): void {
  const bytes = files.get(SUMS)
  const sums = bytes && readSums(new TextDecoder().decode(bytes))
  if (!sums) return fault('sums-invalid', SUMS)
  if (rootOf(sums) !== root || sums.length !== count) fault('root-differs', SUMS, rootOf(sums))
  const listed = new Set(sums.map(({ path }) => path))
  for (const { path, sha256 } of sums) {
    const content = files.get(path)
    if (!content) fault('file-missing', path)
    else if (sha256Hex(content) !== sha256) fault('file-changed', path)
  }
  for (const path of files.keys()) if (!listed.has(path) && !OUTSIDE_THE_TREE.has(path)) fault('file-added', path)
}

/** Ed25519 as RFC 8032 §5.1.7 verifies it. */
export function isSigned(message: Uint8Array, signature: Uint8Array, publicKey: Uint8Array): boolean {
  try {
    return ed25519.verify(signature, message, publicKey, { zip215: false })
  } catch {
    // Bytes that are no key, or no signature, sign nothing.
    return false
  }
}

function signaturesOf(
  files: PackFiles,
  { key, madeBy, madeAt }: Manifest,
  trusted: string | null,
  fault: Report,
): Signed[] {
  const signed: Signed[] = []
  const message = files.get(MANIFEST) ?? new Uint8Array()
  const signature = files.get(SIGNATURE)
  const fingerprint = keyFingerprint(bytesOfBase64(key.public))
  if (!signature) fault('signature-missing', SIGNATURE)
  else if (!isSigned(message, signature, bytesOfBase64(key.public))) fault('signature-wrong', SIGNATURE)
  else signed.push({ by: madeBy, at: madeAt, fingerprint })
  if (trusted !== null && !isFingerprint(trusted, fingerprint)) fault('other-key', MANIFEST, fingerprint)
  const bytes = files.get(COUNTERSIGNATURES)
  if (!bytes) return signed
  const more = z.array(countersignatureSchema).safeParse(jsonIn(bytes))
  if (!more.success) {
    fault('countersignature-wrong', COUNTERSIGNATURES)
    return signed
  }
  for (const one of more.data) {
    // What is signed is the manifest with who signs it and when, so that neither can be exchanged.
    const own = countersigned(message, one)
    if (one.key.public === key.public || !isSigned(own, bytesOfBase64(one.signature), bytesOfBase64(one.key.public)))
      fault('countersignature-wrong', COUNTERSIGNATURES, one.by)
    else signed.push({ by: one.by, at: one.at, fingerprint: keyFingerprint(bytesOfBase64(one.key.public)) })
  }
  return signed
}

/** What a second person signs: the hash of the manifest, with who signs it and when. */
export function countersigned(
  manifest: Uint8Array,
  { by, at }: { readonly by: string; readonly at: string },
): Uint8Array {
  return new TextEncoder().encode(JSON.stringify(['jurybox-countersignature', 1, sha256Hex(manifest), by, at]))
}

/** Each is signed with the key of the pack, follows the one before, and has the hash of its entry in the pack. */
function checkLogHeads(files: PackFiles, { key, auditLog }: Manifest, fault: Report): void {
  const bytes = files.get(LOG_HEADS)
  if (!bytes) return
  const heads = z.array(logHeadSchema).safeParse(jsonIn(bytes))
  if (!heads.success) return fault('log-head-wrong', LOG_HEADS)
  const activity = files.get(ACTIVITY)
  const listed = z.array(z.looseObject({ id: z.int(), hash: z.string() })).safeParse(activity && jsonIn(activity))
  const hashes = new Map((listed.success ? listed.data : []).map(({ id, hash }) => [id, hash]))
  heads.data.forEach((head, i) => {
    const before = heads.data[i - 1]
    const follows = before === undefined || (before.day < head.day && before.entry <= head.entry)
    const isWithin = auditLog === null || head.entry <= auditLog.entry
    const isListed = (hashes.get(head.entry) ?? head.hash) === head.hash
    const isOurs = isSigned(logHeadMessage(head), bytesOfBase64(head.signature), bytesOfBase64(key.public))
    if (!follows || !isWithin || !isListed || !isOurs) fault('log-head-wrong', LOG_HEADS, head.day)
  })
}

/** Clocks of two machines differ by so many milliseconds at most. */
const CLOCKS = 5 * 60_000

function stampOf(files: PackFiles, { madeAt }: Manifest, fault: Report): TimeStamp | null {
  const [request = null, response] = [files.get(TIME_REQUEST), files.get(TIME_RESPONSE)]
  // A request alone says nothing, and could be anything.
  if (request && !response) fault('timestamp-wrong', TIME_REQUEST, 'there is no answer to it')
  if (!response) return null
  const read = readTimestamp(response, files.get(MANIFEST) ?? new Uint8Array(), request)
  if ('fault' in read) {
    fault('timestamp-wrong', TIME_RESPONSE, TIME_STAMP_WORDS[read.fault])
    return null
  }
  if (Date.parse(read.stamp.at) < Date.parse(madeAt) - CLOCKS)
    fault('time-wrong', TIME_RESPONSE, 'stamped before it was made')
  return read.stamp
}

/** What happened before cannot have happened after. */
function checkTimes({ audit, madeAt, previous }: Manifest, signed: readonly Signed[], fault: Report): void {
  const made = Date.parse(madeAt)
  if (Date.parse(audit.judgedAt) > made) fault('time-wrong', MANIFEST, 'made before the audit')
  if (previous && Date.parse(previous.madeAt) > made) fault('time-wrong', MANIFEST, 'made before the pack before it')
  for (const { by, at } of signed)
    if (Date.parse(at) < made) fault('time-wrong', COUNTERSIGNATURES, `signed by ${by} before it was made`)
}

function checkChain({ previous: said }: Manifest, files: PackFiles, fault: Report): void {
  const bytes = files.get(MANIFEST)
  const before = manifestSchema.safeParse(bytes && jsonIn(bytes))
  if (!before.success) return fault('chain-broken', MANIFEST, 'the pack before it has no manifest')
  const { root, madeAt } = before.data
  if (said === null) fault('chain-broken', MANIFEST, 'it names no pack before it')
  else if (said.root !== root || said.madeAt !== madeAt) fault('chain-broken', MANIFEST, said.root)
}

function judgedAnew(files: PackFiles, manifest: Manifest, fault: Report): Verification['recomputed'] {
  let result: ReturnType<typeof recompute>
  try {
    result = recompute(files, manifest)
  } catch (error) {
    if (error instanceof PackContentError) fault('content-invalid', error.file, error.detail)
    else fault('content-invalid', null, error instanceof Error ? error.message : String(error))
    return null
  }
  const key = ({ device, benchmark, rule }: Pick<Differing, 'device' | 'benchmark' | 'rule'>): string =>
    JSON.stringify([device, benchmark, rule])
  const told = new Set(manifest.notReproduced.map(key))
  const untold = result.differing.filter((one) => !told.has(key(one)))
  for (const { device, benchmark, rule, stated, computed, parts } of untold)
    fault(
      'verdict-differs',
      null,
      `${device} ${benchmark} ${rule}: ${stated ?? 'none'} stated, ` +
        `${computed ?? 'none'} computed (${parts.join(', ')})`,
    )
  for (const part of result.parts) fault('sum-differs', null, part)
  return {
    verdicts: result.verdicts,
    equal: result.verdicts - result.differing.filter(({ stated }) => stated !== null).length,
    notReproduced: result.differing.length - untold.length,
  }
}
