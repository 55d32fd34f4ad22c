/**
 * OSCAL 1.1 as JSON, in the part that is written and read here: from memory of the published models, checked against
 * them by nobody but us. What a document has beyond it is let through unread.
 */
import { z } from 'zod'

export const OSCAL_VERSION = '1.1.2'

const uuid = z
  .string()
  .regex(/^[\da-f]{8}-[\da-f]{4}-[45][\da-f]{3}-[89ab][\da-f]{3}-[\da-f]{12}$/i, 'a UUID of version 4 or 5')
const tokenText = z.string().regex(/^[\p{L}_][\p{L}\p{N}._-]*$/u, 'a token')
const time = z.iso.datetime({ offset: true })

export const propSchema = z.looseObject({ name: tokenText, value: z.string().min(1), ns: z.string().optional() })
const props = z.array(propSchema).min(1).optional()
const linkSchema = z.looseObject({ href: z.string(), rel: z.string().optional() })

export const metadataSchema = z.looseObject({
  title: z.string().min(1),
  'last-modified': time,
  version: z.string().min(1),
  'oscal-version': z.string().min(1),
  remarks: z.string().optional(),
})
const resourceSchema = z.looseObject({
  uuid,
  title: z.string().optional(),
  rlinks: z
    .array(
      z.looseObject({
        href: z.string(),
        hashes: z.array(z.looseObject({ algorithm: z.string(), value: z.string() })).optional(),
      }),
    )
    .optional(),
})
const backMatter = z.looseObject({ resources: z.array(resourceSchema).min(1).optional() }).optional()

const paramSchema = z.looseObject({
  id: tokenText,
  label: z.string().optional(),
  values: z.array(z.string()).min(1).optional(),
})
export const controlSchema = z.looseObject({
  id: tokenText,
  title: z.string().min(1),
  params: z.array(paramSchema).min(1).optional(),
  props,
  links: z.array(linkSchema).min(1).optional(),
  parts: z
    .array(z.looseObject({ id: tokenText.optional(), name: tokenText, prose: z.string().optional() }))
    .min(1)
    .optional(),
})
const groupSchema = z.looseObject({
  id: tokenText.optional(),
  title: z.string().min(1),
  controls: z.array(controlSchema).min(1).optional(),
})
export const catalogSchema = z.looseObject({
  uuid,
  metadata: metadataSchema,
  params: z.array(paramSchema).min(1).optional(),
  groups: z.array(groupSchema).min(1).optional(),
  controls: z.array(controlSchema).min(1).optional(),
  'back-matter': backMatter,
})

const selected = z
  .array(z.looseObject({ 'with-ids': z.array(tokenText).min(1).optional() }))
  .min(1)
  .optional()
export const profileSchema = z.looseObject({
  uuid,
  metadata: metadataSchema,
  imports: z
    .array(
      z.looseObject({
        href: z.string(),
        'include-all': z.looseObject({}).optional(),
        'include-controls': selected,
        'exclude-controls': selected,
      }),
    )
    .min(1),
  modify: z
    .looseObject({
      'set-parameters': z
        .array(z.looseObject({ 'param-id': tokenText, values: z.array(z.string()).min(1).optional() }))
        .min(1)
        .optional(),
      alters: z
        .array(z.looseObject({ 'control-id': tokenText, adds: z.array(z.looseObject({ props })).min(1).optional() }))
        .min(1)
        .optional(),
    })
    .optional(),
  'back-matter': backMatter,
})

export const componentDefinitionSchema = z.looseObject({
  uuid,
  metadata: metadataSchema,
  components: z
    .array(
      z.looseObject({
        uuid,
        type: z.string(),
        title: z.string(),
        description: z.string(),
        props,
        'control-implementations': z
          .array(
            z.looseObject({
              uuid,
              source: z.string(),
              description: z.string(),
              'implemented-requirements': z
                .array(z.looseObject({ uuid, 'control-id': tokenText, description: z.string(), props }))
                .min(1),
            }),
          )
          .min(1)
          .optional(),
      }),
    )
    .min(1)
    .optional(),
})

const reviewedControls = z.looseObject({
  'control-selections': z
    .array(
      z.looseObject({
        'include-all': z.looseObject({}).optional(),
        'include-controls': z
          .array(z.looseObject({ 'control-id': tokenText }))
          .min(1)
          .optional(),
      }),
    )
    .min(1),
})
const inventoryItem = z.looseObject({ uuid, description: z.string(), props })
const subject = z.looseObject({ 'subject-uuid': uuid, type: z.string() })

export const assessmentPlanSchema = z.looseObject({
  uuid,
  metadata: metadataSchema,
  'import-ssp': z.looseObject({ href: z.string() }),
  'local-definitions': z
    .looseObject({
      'inventory-items': z.array(inventoryItem).min(1).optional(),
      activities: z.array(z.looseObject({ uuid, title: z.string(), description: z.string(), props })).optional(),
    })
    .optional(),
  'reviewed-controls': reviewedControls,
  'assessment-subjects': z
    .array(z.looseObject({ type: z.string(), 'include-subjects': z.array(subject).min(1).optional() }))
    .min(1)
    .optional(),
  tasks: z
    .array(z.looseObject({ uuid, type: z.string(), title: z.string() }))
    .min(1)
    .optional(),
  'back-matter': backMatter,
})

export const observationSchema = z.looseObject({
  uuid,
  title: z.string().optional(),
  description: z.string(),
  props,
  methods: z.array(z.string()).min(1),
  subjects: z.array(subject).min(1).optional(),
  'relevant-evidence': z
    .array(z.looseObject({ href: z.string().optional(), description: z.string() }))
    .min(1)
    .optional(),
  collected: time,
  remarks: z.string().optional(),
})
export const riskSchema = z.looseObject({
  uuid,
  title: z.string(),
  description: z.string(),
  statement: z.string(),
  status: z.string(),
  props,
  deadline: time.optional(),
  remediations: z
    .array(z.looseObject({ uuid, lifecycle: z.string(), title: z.string(), description: z.string() }))
    .min(1)
    .optional(),
})
export const findingSchema = z.looseObject({
  uuid,
  title: z.string(),
  description: z.string(),
  props,
  target: z.looseObject({
    type: z.enum(['objective-id', 'statement-id']),
    'target-id': tokenText,
    status: z.looseObject({ state: z.enum(['satisfied', 'not-satisfied']), reason: z.string().optional() }),
  }),
  'related-observations': z
    .array(z.looseObject({ 'observation-uuid': uuid }))
    .min(1)
    .optional(),
  'related-risks': z
    .array(z.looseObject({ 'risk-uuid': uuid }))
    .min(1)
    .optional(),
})
export const assessmentResultsSchema = z.looseObject({
  uuid,
  metadata: metadataSchema,
  'import-ap': z.looseObject({ href: z.string() }),
  results: z
    .array(
      z.looseObject({
        uuid,
        title: z.string(),
        description: z.string(),
        start: time,
        'local-definitions': z.looseObject({ 'inventory-items': z.array(inventoryItem).min(1).optional() }).optional(),
        'reviewed-controls': reviewedControls,
        observations: z.array(observationSchema).min(1).optional(),
        risks: z.array(riskSchema).min(1).optional(),
        findings: z.array(findingSchema).min(1).optional(),
      }),
    )
    .min(1),
  'back-matter': backMatter,
})

export const poamSchema = z.looseObject({
  uuid,
  metadata: metadataSchema,
  'system-id': z.looseObject({ id: z.string().min(1) }).optional(),
  'local-definitions': z.looseObject({ 'inventory-items': z.array(inventoryItem).min(1).optional() }).optional(),
  observations: z.array(observationSchema).min(1).optional(),
  risks: z.array(riskSchema).min(1).optional(),
  'poam-items': z
    .array(
      z.looseObject({
        uuid,
        title: z.string(),
        description: z.string(),
        props,
        'related-observations': z
          .array(z.looseObject({ 'observation-uuid': uuid }))
          .min(1)
          .optional(),
        'related-risks': z
          .array(z.looseObject({ 'risk-uuid': uuid }))
          .min(1)
          .optional(),
        remarks: z.string().optional(),
      }),
    )
    .min(1),
  'back-matter': backMatter,
})

export const OSCAL_MODELS = {
  catalog: catalogSchema,
  profile: profileSchema,
  'component-definition': componentDefinitionSchema,
  'assessment-plan': assessmentPlanSchema,
  'assessment-results': assessmentResultsSchema,
  'plan-of-action-and-milestones': poamSchema,
} as const
export type OscalModel = keyof typeof OSCAL_MODELS
export type OscalOf<M extends OscalModel> = z.infer<(typeof OSCAL_MODELS)[M]>
export type Prop = z.infer<typeof propSchema>

/**
 * Reads a document of one model.
 * @throws Error that says where it is not as expected
 */
export function readOscal<M extends OscalModel>(text: string, model: M): OscalOf<M> {
  let data: unknown
  try {
    data = JSON.parse(text)
  } catch (error) {
    throw new Error(`The file is no JSON: ${error instanceof Error ? error.message : String(error)}`)
  }
  const parsed = z.looseObject({ [model]: OSCAL_MODELS[model] }).safeParse(data)
  if (!parsed.success) {
    const [issue] = parsed.error.issues
    throw new Error(`The file is no OSCAL ${model}: ${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}`)
  }
  return (parsed.data as Record<string, unknown>)[model] as OscalOf<M>
}

export function writeOscal<M extends OscalModel>(model: M, document: OscalOf<M>): string {
  return `${JSON.stringify({ [model]: document }, null, 2)}\n`
}
