/** What a report consists of, and what each audience gets of it. */
export const SECTIONS = {
  summary: 'Summary',
  scope: 'Scope',
  method: 'Method',
  signing: 'Signature of evidence',
  assessment: 'Assessment',
  rules: 'Rules',
  standing: 'Score and coverage',
  requirements: 'Requirements',
  people: 'Questions for people',
  traffic: 'Expectations',
  remediation: 'Remediation',
  findings: 'Findings',
  records: 'Records',
} as const
export type SectionId = keyof typeof SECTIONS
export const SECTION_IDS = Object.keys(SECTIONS) as readonly SectionId[]

/** Sections by audience, in their order. Everything that an assessor may ask for is in the report for assessors. */
export const AUDIENCES = {
  technical: [
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
    'findings',
    'records',
  ],
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
