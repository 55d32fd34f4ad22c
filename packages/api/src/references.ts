import { z } from 'zod'
import { LINE_STATES } from '@jurybox/core/rules'
import { referenceSchema } from '@jurybox/core/references'
import { asOf } from './as-of.ts'
import { endpoint } from './endpoint.ts'

const cited = z.strictObject({ record: z.number(), from: z.number(), to: z.number() })
export const REFERENCE_OUTCOMES = ['conforms', 'departs', 'undecided', 'outside'] as const
export const referenceOutcome = z.enum(REFERENCE_OUTCOMES)

export const referenceView = z.strictObject({
  id: z.string(),
  title: z.string(),
  feature: z.string(),
  dialect: z.string(),
  note: z.string(),
  scope: z.string().nullable(),
})
export type ReferenceView = z.infer<typeof referenceView>

export const referenceAnswerView = z.strictObject({
  outcome: referenceOutcome,
  reason: z.string().nullable(),
  lines: z.array(
    z.strictObject({
      state: z.enum(LINE_STATES),
      block: z.array(z.string()),
      text: z.string(),
      doubt: z.enum(['no-value', 'incomplete', 'no-answer']).nullable(),
      lines: z.array(cited),
    }),
  ),
  values: z.array(
    z.strictObject({
      name: z.string(),
      value: z.array(z.string()).nullable(),
      from: z.enum(['reference', 'label', 'model', 'benchmark', 'override']),
      override: z.strictObject({ title: z.string(), by: z.string() }).nullable(),
    }),
  ),
  state: z.array(
    z.strictObject({
      title: z.string(),
      outcome: z.enum(['met', 'violated', 'undecided']),
      reason: z.strictObject({ code: z.enum(['not-captured', 'no-answer']), what: z.string() }).nullable(),
    }),
  ),
  commands: z.array(z.string()),
  rollback: z.array(z.string()),
})
export type ReferenceAnswerView = z.infer<typeof referenceAnswerView>

/** How many lines of each state a device has. */
export const heldDevice = z.strictObject({
  device: z.number(),
  name: z.string(),
  site: z.string().nullable(),
  /** Titles of the saved groups it belongs to. */
  groups: z.array(z.string()),
  /** In the order of the references. */
  outcomes: z.array(
    z.strictObject({ outcome: referenceOutcome, missing: z.number(), extra: z.number(), undecided: z.number() }),
  ),
})
export type HeldDevice = z.infer<typeof heldDevice>

/** Every reference and where each device stands to it. */
export const listReferences = endpoint({
  method: 'get',
  path: '/engagements/:engagement/references',
  access: 'read',
  summary: 'Reference configurations, and where each device stands to each',
  query: asOf,
  response: z.strictObject({
    version: z.number(),
    references: z.array(referenceView),
    devices: z.array(heldDevice),
    features: z.array(z.strictObject({ id: z.string(), title: z.string(), dialects: z.array(z.string()) })),
  }),
})

/** What one device has and lacks of a reference. */
export const getReferenceAnswer = endpoint({
  method: 'get',
  path: '/engagements/:engagement/references/:reference/devices/:device',
  access: 'read',
  summary: 'What a device has and lacks of a reference, with the commands that put it right',
  query: asOf,
  response: referenceAnswerView,
})

export const derivedView = z.strictObject({
  samples: z.number(),
  reference: referenceSchema,
  values: z.array(
    z.strictObject({
      name: z.string(),
      line: z.string(),
      values: z.array(z.strictObject({ value: z.string(), samples: z.array(z.string()) })),
    }),
  ),
  /** What is in common of the state; `that` is null where no value is that of most. */
  state: z.array(
    z.strictObject({
      title: z.string(),
      that: z.string().nullable(),
      values: z.array(z.strictObject({ value: z.string(), samples: z.array(z.string()) })),
      unknown: z.array(z.string()),
    }),
  ),
  outliers: z.array(
    z.strictObject({
      name: z.string(),
      deviations: z.array(
        z.strictObject({ kind: z.enum(['missing', 'extra', 'state']), block: z.array(z.string()), text: z.string() }),
      ),
    }),
  ),
})
export type DerivedView = z.infer<typeof derivedView>

/** Derives a reference from what devices have in common. */
export const deriveReferences = endpoint({
  method: 'get',
  path: '/engagements/:engagement/references/derived',
  access: 'read',
  summary: 'Derives a reference for a feature from what devices have in common, with its outliers',
  query: asOf.extend({
    feature: z.string().min(1).max(60),
    dialect: z.string().min(1).max(60),
    /** Title of a group; left out: all devices of the dialect. */
    group: z.string().max(160).optional(),
    share: z.coerce.number().min(0.5).max(1).default(0.8),
  }),
  response: derivedView.nullable(),
})

/** Saves a reference, in place of one with its id. */
export const saveReference = endpoint({
  method: 'post',
  path: '/engagements/:engagement/references',
  access: 'fit',
  summary: 'Saves a reference, in place of one with its id',
  large: true,
  body: referenceSchema,
  response: z.strictObject({ version: z.number() }),
})

/** A reference as a rule that a benchmark can hold; overrides and expectations of state stay with the reference. */
export const getReferenceRule = endpoint({
  method: 'get',
  path: '/engagements/:engagement/references/:reference/rule',
  access: 'read',
  summary: 'A reference as a draft of a rule',
  response: z.strictObject({ rule: z.record(z.string(), z.unknown()), values: z.record(z.string(), z.unknown()) }),
})

/** Deletes a reference; earlier versions of the file keep it. */
export const deleteReference = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/references/:reference',
  access: 'fit',
  summary: 'Deletes a reference; earlier versions of the file keep it',
})
