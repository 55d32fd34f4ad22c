/** What a report consists of, and what each audience gets of it. */
export const SECTION_IDS = [
  'summary',
  'scope',
  'method',
  'signing',
  'assessment',
  'rules',
  'standing',
  'requirements',
  'people',
  'traffic',
  'remediation',
  'findings',
  'records',
] as const
export type SectionId = (typeof SECTION_IDS)[number]

/** Sections by audience, in their order. Everything that an assessor may ask for is in the report for assessors. */
export const AUDIENCES = {
  technical: SECTION_IDS.filter((id) => id !== 'remediation'),
  management: ['summary', 'standing', 'assessment'],
  assessor: [
    'summary',
    'scope',
    'method',
    'signing',
    'assessment',
    'requirements',
    'people',
    'traffic',
    'findings',
    'records',
  ],
  remediation: ['summary', 'remediation'],
} as const satisfies Readonly<Record<string, readonly SectionId[]>>
export type Audience = keyof typeof AUDIENCES
export const AUDIENCE_IDS = Object.keys(AUDIENCES) as readonly Audience[]
