import { oneFile } from './upload.ts'
import { z } from 'zod'
import { endpoint } from './endpoint.ts'
import { jobView } from './jobs.ts'

export const packView = z.strictObject({
  id: z.number(),
  audit: z.number(),
  snapshot: z.strictObject({ id: z.number(), title: z.string(), takenAt: z.string() }),
  masked: z.boolean(),
  /** Head of the hash tree over its files. */
  root: z.string(),
  files: z.number(),
  /** Bytes. */
  size: z.number(),
  /** Verdicts that do not come out again of what it holds. */
  notReproduced: z.number(),
  madeBy: z.string(),
  madeAt: z.string(),
  /** By whom its time was stamped (RFC 3161); null: by nobody. */
  stamped: z.strictObject({ at: z.string(), authority: z.string(), certificate: z.string() }).nullable(),
  countersigned: z.array(z.strictObject({ by: z.string(), at: z.string(), fingerprint: z.string() })),
  /** Whether whoever asks may countersign it. */
  mayCountersign: z.boolean(),
})
export type PackView = z.infer<typeof packView>

/** The evidence packs of an engagement, and the key that they are signed with. */
export const listPacks = endpoint({
  method: 'get',
  path: '/engagements/:engagement/packs',
  access: 'read',
  summary: 'Evidence packs, the newest first, and the key that they are signed with',
  response: z.strictObject({
    /** Null where nothing was signed yet. */
    key: z.strictObject({ public: z.string(), fingerprint: z.string() }).nullable(),
    /** Whether the server asks an authority for time stamps; else a person does. */
    hasTimeAuthority: z.boolean(),
    packs: z.array(packView),
  }),
})

/** Packs everything that an audit rests on, with secrets masked, and signs it. */
export const makePack = endpoint({
  method: 'post',
  path: '/engagements/:engagement/packs',
  access: 'run',
  summary: 'Packs everything that an audit rests on, secrets masked, and signs it; gives the job',
  body: z.strictObject({ audit: z.int().positive() }),
  response: jobView,
})

/** The same with the secrets as they are in the records. */
export const makeRealPack = endpoint({
  method: 'post',
  path: '/engagements/:engagement/packs/with-secrets',
  access: 'exportSecrets',
  summary: 'Packs everything that an audit rests on, secrets included, and signs it; gives the job',
  fresh: true,
  body: z.strictObject({ audit: z.int().positive() }),
  response: jobView,
})

/** An evidence pack whose secrets are masked, as a zip. */
export const downloadPack = endpoint({
  method: 'get',
  path: '/engagements/:engagement/packs/:pack/evidence.zip',
  access: 'run',
  summary: 'An evidence pack whose secrets are masked, as a zip',
  file: 'application/zip',
})

/** An evidence pack with secrets, as a zip. */
export const downloadRealPack = endpoint({
  method: 'get',
  path: '/engagements/:engagement/packs/:pack/evidence-with-secrets.zip',
  access: 'exportSecrets',
  summary: 'An evidence pack with the secrets of its records, as a zip; every download is logged',
  fresh: true,
  file: 'application/zip',
})

/** A second person signs the manifest of a pack. */
export const countersignPack = endpoint({
  method: 'post',
  path: '/engagements/:engagement/packs/:pack/countersignature',
  access: 'run',
  summary: 'Countersigns an evidence pack with the key of the caller',
})

/** Asks the time-stamp authority of this installation to stamp a pack. */
export const stampPack = endpoint({
  method: 'post',
  path: '/engagements/:engagement/packs/:pack/time-stamp',
  access: 'run',
  summary: 'Asks the time-stamp authority of this installation to stamp an evidence pack (RFC 3161)',
})

/** The request for a time stamp of a pack, to be taken to an authority by hand. */
export const downloadTimeRequest = endpoint({
  method: 'get',
  path: '/engagements/:engagement/packs/:pack/timestamp.tsq',
  access: 'run',
  summary: 'The request for a time stamp of an evidence pack, to be taken to an authority by hand',
  file: 'application/timestamp-query',
})

/** Keeps the answer of an authority, if it holds. */
export const uploadTimeAnswer = endpoint({
  method: 'post',
  path: '/engagements/:engagement/packs/:pack/timestamp',
  access: 'run',
  summary: 'Keeps the answer of a time-stamp authority, if it holds',
  upload: true,
  body: oneFile,
})
