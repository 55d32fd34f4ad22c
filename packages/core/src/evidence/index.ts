/** Packs of evidence that a third party can check: made, signed, verified, and judged anew. */
export { auditPath, headByPath, leafHash, treeHead } from './merkle.ts'
export {
  COUNTERSIGNATURES,
  MANIFEST,
  SIGNATURE,
  SUMS,
  TIME_REQUEST,
  TIME_RESPONSE,
  countersignatureSchema,
  isPartOf,
  keyFingerprint,
  manifestSchema,
  partProof,
  partProofSchema,
  readSums,
  rootOf,
  sumsOf,
  writeSums,
  type Countersignature,
  type Manifest,
  type NotReproduced,
  type PackFiles,
  type PartProof,
  type Summed,
} from './manifest.ts'
export {
  ACTIVITY,
  ANSWERS,
  ANSWER_FOLDER,
  AUDIT,
  BEFORE_FOLDER,
  CHOICES,
  FACTS,
  RECORDS,
  SNAPSHOT_FOLDER,
  WAIVERS,
  type PackedChoice,
  type PackedFacts,
  type PackedRecords,
} from './content.ts'
export { HOW_TO_CHECK_FILE, KEY_FILE, notReproducedIn, packFiles, pemOf, signPack, type PackContent } from './make.ts'
export { PackContentError, recompute, type Differing, type Recomputed } from './recompute.ts'
export { partDocumentSchema, partOf, verifyPart, type PartDocument } from './part.ts'
export {
  FAULT_WORDS,
  countersigned,
  isSigned,
  verifyPack,
  verifyPackBytes,
  type Expectations,
  type PackFault,
  type Signed,
  type Verification,
} from './verify.ts'
export { TIME_STAMP_WORDS, readTimestamp, timestampRequest, type TimeStamp, type TimeStampFault } from './timestamp.ts'
export { LOG_HEADS, logHeadMessage, logHeadSchema, type SignedLogHead } from './log-heads.ts'
export { readPack, writePack } from './zip.ts'
