import { z } from 'zod'
import { endpoint } from './endpoint.ts'
import { oneFile } from './upload.ts'

/** Open formats that a benchmark is given out in. */
export const BENCHMARK_FORMATS = ['oscal-catalog', 'oscal-profile', 'oscal-component-definition', 'xccdf'] as const

/** How many things, and the names of the first of them. */
const named = z.strictObject({ count: z.number(), names: z.array(z.string()) })

/** A benchmark as OSCAL or XCCDF: its rules as controls, its fitting as a profile, what it checks of frameworks. */
export const exportBenchmark = endpoint({
  method: 'get',
  path: '/engagements/:engagement/benchmarks/:benchmark/exchange/:format',
  access: 'read',
  summary: `A benchmark in an open format: ${BENCHMARK_FORMATS.join(', ')}`,
  file: 'application/octet-stream',
})

/** Fits a benchmark as a profile of OSCAL says: rules left out, severities, values. */
export const importProfile = endpoint({
  method: 'post',
  path: '/engagements/:engagement/benchmarks/:benchmark/oscal-profile',
  access: 'fit',
  summary: 'Fits a benchmark as a profile of OSCAL says: rules left out, severities, values',
  upload: true,
  body: oneFile,
  response: z.strictObject({ values: z.number(), tailored: z.number(), lost: named }),
})

/** The requirements of a framework as a catalog of OSCAL. */
export const exportFramework = endpoint({
  method: 'get',
  path: '/engagements/:engagement/frameworks/:name/catalog.json',
  access: 'read',
  summary: 'The requirements of a framework as a catalog of OSCAL',
  file: 'application/json',
})

/** Takes over state, due dates and comments of findings from a plan of action and milestones of OSCAL. */
export const importPlanOfAction = endpoint({
  method: 'post',
  path: '/engagements/:engagement/audits/:audit/oscal-poam',
  access: 'remediate',
  summary: 'Takes over state, due dates and comments of findings from a plan of action and milestones of OSCAL',
  upload: true,
  body: oneFile,
  response: z.strictObject({
    changed: z.number(),
    unchanged: z.number(),
    /** Findings that this audit does not have. */
    unknown: named,
    /** What of the file could not be taken over. */
    lost: named,
  }),
})

/** Holds results of XCCDF or OSCAL, also of another tool, against the verdicts of an audit; nothing is changed. */
export const compareResults = endpoint({
  method: 'post',
  path: '/engagements/:engagement/audits/:audit/other-results',
  access: 'run',
  summary:
    'Holds results of XCCDF or OSCAL, also of another tool, against the verdicts of an audit; nothing is changed',
  upload: true,
  body: oneFile,
  response: z.strictObject({
    same: z.number(),
    differing: z.array(
      z.strictObject({ device: z.string(), rule: z.string(), ours: z.string(), theirs: z.string(), note: z.string() }),
    ),
    /** Results of rules or devices that this audit does not have. */
    unknown: named,
    /** What of the file could not be taken over. */
    lost: named,
  }),
})

/** Takes a catalog of OSCAL in as own controls of the engagement; one of the same id is replaced. */
export const importFramework = endpoint({
  method: 'post',
  path: '/engagements/:engagement/frameworks',
  access: 'fit',
  summary: 'Takes a catalog of OSCAL in as own controls of the engagement; one of the same id is replaced',
  upload: true,
  body: oneFile,
  response: z.strictObject({ id: z.string(), title: z.string(), requirements: z.number(), lost: named }),
})

/** Deletes own controls, where no audit was made for them. */
export const deleteFramework = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/frameworks/:name',
  access: 'fit',
  summary: 'Deletes own controls, where no audit was made for them',
})
