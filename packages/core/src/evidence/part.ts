/** One file of a pack, shown alone: with the signed manifest and the way from its hash to the head. */
import { z } from 'zod'
import {
  MANIFEST,
  SIGNATURE,
  SUMS,
  isFingerprint,
  isPartOf,
  jsonIn,
  keyFingerprint,
  manifestSchema,
  partProof,
  partProofSchema,
  readSums,
  type PackFiles,
} from './manifest.ts'
import { base64Of, bytesOfBase64 } from './base64.ts'
import { isSigned, type PackFault } from './verify.ts'

export const partDocumentSchema = z.strictObject({
  format: z.literal('jurybox-evidence-part'),
  schema: z.literal(1),
  /** The manifest as it was signed, byte by byte. */
  manifest: z.string(),
  signature: z.base64(),
  proof: partProofSchema,
})
export type PartDocument = z.infer<typeof partDocumentSchema>

/** Null where the pack has no such file, or is none. */
export function partOf(files: PackFiles, path: string): PartDocument | null {
  const [manifest, signature, sums] = [MANIFEST, SIGNATURE, SUMS].map((name) => files.get(name))
  const proof = partProof((sums && readSums(new TextDecoder().decode(sums))) ?? [], path)
  if (!manifest || !signature || !proof) return null
  return {
    format: 'jurybox-evidence-part',
    schema: 1,
    manifest: new TextDecoder().decode(manifest),
    signature: base64Of(signature),
    proof,
  }
}

/** What is wrong with a file that is shown alone; empty: it is the one of the pack. */
export function verifyPart(bytes: Uint8Array, document: unknown, key: string | null = null): PackFault[] {
  const read = partDocumentSchema.safeParse(document)
  if (!read.success) return [{ code: 'manifest-invalid', file: null, detail: read.error.issues[0]?.message ?? '' }]
  const { manifest: text, signature, proof } = read.data
  const message = new TextEncoder().encode(text)
  const manifest = manifestSchema.safeParse(jsonIn(message))
  if (!manifest.success)
    return [{ code: 'manifest-invalid', file: null, detail: manifest.error.issues[0]?.message ?? '' }]
  const publicKey = bytesOfBase64(manifest.data.key.public)
  const fingerprint = keyFingerprint(publicKey)
  const faults: PackFault[] = []
  if (!isSigned(message, bytesOfBase64(signature), publicKey))
    faults.push({ code: 'signature-wrong', file: null, detail: '' })
  if (key !== null && !isFingerprint(key, fingerprint))
    faults.push({ code: 'other-key', file: null, detail: fingerprint })
  if (!isPartOf(bytes, proof, manifest.data.root)) faults.push({ code: 'file-changed', file: proof.path, detail: '' })
  return faults
}
