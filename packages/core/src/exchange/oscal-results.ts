/** An audit as OSCAL: the plan, the results with observations, findings and risks, the plan of action; in and out. */
import { isFinding, remedyText, type Verdict } from '../audit/index.ts'
import { outcomeSchema } from '../rules/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { findingKey, type FindingMark } from './marks.ts'
import { metadataOf, prop, propOf } from './oscal-controls.ts'
import type { OscalOf } from './oscal-schema.ts'
import { titlesIn, verdictsIn, type Told } from './told.ts'
import { idOf, token } from './uuid.ts'

/** Most places of evidence in one observation. */
const EVIDENCE = 50
type Results = OscalOf<'assessment-results'>['results'][number]
type Observation = NonNullable<Results['observations']>[number]
type Risk = NonNullable<Results['risks']>[number]

/** An audit with what every part of a document asks of it, worked out once. */
interface Telling extends Told {
  /** The same audit has the same name, and so the same identifiers, whoever writes it and when. */
  readonly name: string
  readonly titleOf: ReturnType<typeof titlesIn>
  /** When each record was captured, by its id. */
  readonly takenAt: ReadonlyMap<string, string | null>
  readonly devices: ReadonlySet<string>
}

function tellingOf(told: Told): Telling {
  const { snapshot, benchmarks, records, devices, limitedTo = '', framework = '' } = told.document
  const judged = benchmarks.map(({ id, version, profile }) => `${id} ${version} ${profile}`)
  return {
    ...told,
    name: JSON.stringify([snapshot.title, snapshot.takenAt, judged, limitedTo, framework]),
    titleOf: titlesIn(told),
    takenAt: new Map(records.map(({ id, takenAt }) => [id, takenAt])),
    devices: new Set(devices.map((device) => device.name)),
  }
}

const ruleToken = ({ benchmark, rule }: Pick<Verdict, 'benchmark' | 'rule'>): string => token(`${benchmark}_${rule}`)

function reviewed(told: Told): Results['reviewed-controls'] {
  const controls = [...new Set(verdictsIn(told).map(ruleToken))]
  return {
    'control-selections': [
      controls.length === 0
        ? { 'include-all': {} }
        : { 'include-controls': controls.map((control) => ({ 'control-id': control })) },
    ],
  }
}

export function assessmentPlan(audit: Told): OscalOf<'assessment-plan'> {
  const told = tellingOf(audit)
  const { name } = told
  const none = idOf('no-security-plan')
  const subjects = told.document.devices.map((device) => ({
    'subject-uuid': deviceId(told, device.name),
    type: 'inventory-item',
  }))
  return {
    uuid: idOf('assessment-plan', name),
    metadata: metadataOf(`Assessment plan: ${told.title}`, '1', told.madeAt),
    'import-ssp': { href: `#${none}` },
    'local-definitions': {
      ...(subjects.length === 0 ? {} : { 'inventory-items': inventoryOf(told) }),
      activities: told.document.benchmarks.map(({ id, title, version, profile }) => ({
        uuid: idOf('activity', name, id),
        title: `Audit with ${title} ${version}`,
        description: `Each rule of the profile ${profile} is decided from the records of each device.`,
        props: [prop('benchmark', id)],
      })),
    },
    'reviewed-controls': reviewed(told),
    'assessment-subjects': [
      { type: 'inventory-item', ...(subjects.length === 0 ? { 'include-all': {} } : { 'include-subjects': subjects }) },
    ],
    tasks: [{ uuid: idOf('task', name), type: 'action', title: `Audit of ${told.document.snapshot.title}` }],
    'back-matter': { resources: [{ uuid: none, title: 'No system security plan was given' }] },
  }
}

export function assessmentResults(audit: Told): OscalOf<'assessment-results'> {
  const told = tellingOf(audit)
  const { document, name } = told
  const all = verdictsIn(told)
  const risks = all.filter(({ outcome }) => isFinding(outcome)).map((verdict) => riskOf(told, verdict))
  const start = document.snapshot.takenAt ?? told.madeAt
  return {
    uuid: idOf('assessment-results', name),
    metadata: metadataOf(told.title, '1', told.madeAt),
    'import-ap': { href: `#${idOf('assessment-plan', name)}` },
    results: [
      {
        uuid: idOf('result', name),
        title: told.title,
        description:
          document.limitedTo === undefined ? 'All devices of the snapshot.' : `Limited to ${document.limitedTo}.`,
        start,
        ...(document.devices.length === 0 ? {} : { 'local-definitions': { 'inventory-items': inventoryOf(told) } }),
        'reviewed-controls': reviewed(told),
        ...(all.length === 0
          ? {}
          : { observations: all.map((verdict) => observationOf(told, verdict)), findings: findingsOf(told) }),
        ...(risks.length === 0 ? {} : { risks }),
      },
    ],
    'back-matter': {
      resources: [
        { uuid: idOf('assessment-plan', name), title: 'Assessment plan', rlinks: [{ href: 'assessment-plan.json' }] },
        ...recordsOf(told, all),
      ],
    },
  }
}

/** The records that verdicts cite; those that are not at hand too, so that nothing refers to what is not there. */
function recordsOf(told: Telling, verdicts: readonly Verdict[]) {
  const known = new Map(told.document.records.map((record) => [record.id, record]))
  const cited = new Set(verdicts.flatMap(({ exhibits }) => exhibits.slice(0, EVIDENCE).map(({ record }) => record)))
  return [...cited].map((id) => {
    const record = known.get(id)
    return {
      uuid: idOf('record', told.name, id),
      title: record?.path ?? id,
      // A fingerprint is keyed: it is no hash that somebody else could compute.
      ...(record ? { remarks: `Fingerprint ${record.fingerprint} (HMAC-SHA256, key of the engagement).` } : {}),
    }
  })
}

const deviceId = (told: Telling, device: string): string => idOf('device', told.name, device)

function inventoryOf(told: Telling) {
  return told.document.devices.map(({ name, dialect }) => ({
    uuid: deviceId(told, name),
    description: name,
    props: [prop('dialect', dialect)],
  }))
}

function observationOf(told: Telling, verdict: Verdict): Observation {
  const { device, benchmark, rule, outcome, severity, branch, note, exhibits } = verdict
  const evidence = exhibits
    .slice(0, EVIDENCE)
    .map(({ record, from, to, text, absent }) => ({
      href: `#${idOf('record', told.name, record)}`,
      description: `${absent ? 'Searched lines' : 'Lines'} ${from} to ${to}` + (text === '' ? '' : `:\n${text}`),
    }))
  return {
    uuid: idOf('observation', told.name, findingKey(verdict)),
    title: `${device}: ${told.titleOf(verdict)}`,
    description: note === '' ? outcome : note,
    props: [
      prop('device', device === '' ? '-' : device),
      prop('benchmark', benchmark),
      prop('rule', rule),
      prop('outcome', outcome),
      prop('severity', severity),
      prop('branch', branch === '' ? '-' : branch),
      ...(verdict.waived ? [prop('waived-until', verdict.waived[0]?.expires ?? '-')] : []),
    ],
    methods: ['EXAMINE'],
    ...(told.devices.has(device)
      ? { subjects: [{ 'subject-uuid': deviceId(told, device), type: 'inventory-item' }] }
      : {}),
    ...(evidence.length === 0 ? {} : { 'relevant-evidence': evidence }),
    collected: told.takenAt.get(exhibits[0]?.record ?? '') ?? told.document.snapshot.takenAt ?? told.madeAt,
  }
}

/** A finding of OSCAL is of a control: satisfied only where every verdict of its rule passes or does not apply. */
function findingsOf(told: Telling): NonNullable<Results['findings']> {
  return [...grouped(verdictsIn(told), ruleToken)].map(([control, own]) => {
    const open = own.filter(({ outcome }) => outcome !== 'pass' && outcome !== 'notapplicable')
    const failed = own.filter(({ outcome }) => outcome === 'fail').length
    const [first] = own
    const isSatisfied = open.length === 0 && own.some(({ outcome }) => outcome === 'pass')
    const atRisk = own.filter(({ outcome }) => isFinding(outcome))
    return {
      uuid: idOf('finding', told.name, control),
      title: first ? told.titleOf(first) : control,
      description: `${failed} fail, ${open.length - failed} not decided, of ${own.length}.`,
      target: {
        type: 'objective-id',
        'target-id': control,
        status: {
          state: isSatisfied ? 'satisfied' : 'not-satisfied',
          // What nobody could decide is not satisfied; it did not fail either.
          reason: isSatisfied ? 'pass' : failed > 0 ? 'fail' : 'other',
        },
      },
      'related-observations': own.map((verdict) => ({
        'observation-uuid': idOf('observation', told.name, findingKey(verdict)),
      })),
      ...(atRisk.length === 0
        ? {}
        : {
            'related-risks': atRisk.map((verdict) => ({ 'risk-uuid': idOf('risk', told.name, findingKey(verdict)) })),
          }),
    }
  })
}

function riskOf(told: Telling, verdict: Verdict): Risk {
  const { device, outcome, severity, note, remedy } = verdict
  const mark = told.marks.get(findingKey(verdict))
  const advice = remedyText(remedy)
  return {
    uuid: idOf('risk', told.name, findingKey(verdict)),
    title: `${device}: ${told.titleOf(verdict)}`,
    description: note === '' ? outcome : note,
    statement: outcome === 'fail' ? 'The rule is violated.' : 'It could not be decided whether the rule holds.',
    status: mark?.done ? 'closed' : verdict.waived ? 'deviation-approved' : 'open',
    props: [prop('severity', severity)],
    ...(mark?.due ? { deadline: `${mark.due}T23:59:59Z` } : {}),
    ...(advice === ''
      ? {}
      : {
          remediations: [
            {
              uuid: idOf('remediation', told.name, findingKey(verdict)),
              lifecycle: 'recommendation',
              title: 'Remediation',
              description: advice,
            },
          ],
        }),
  }
}

/** Every finding with its state, due date and comment. Null where there is none: a plan of nothing is none. */
export function planOfAction(audit: Told): OscalOf<'plan-of-action-and-milestones'> | null {
  const own = verdictsIn(audit).filter(({ outcome }) => isFinding(outcome))
  if (own.length === 0) return null
  const told = tellingOf(audit)
  const { name } = told
  const records = recordsOf(told, own)
  return {
    uuid: idOf('poam', name),
    metadata: metadataOf(`Plan of action: ${told.title}`, '1', told.madeAt),
    'system-id': { id: token(told.document.snapshot.title) },
    'local-definitions': { 'inventory-items': inventoryOf(told) },
    observations: own.map((verdict) => observationOf(told, verdict)),
    risks: own.map((verdict) => riskOf(told, verdict)),
    'poam-items': own.map((verdict) => {
      const mark = told.marks.get(findingKey(verdict))
      return {
        uuid: idOf('poam-item', name, findingKey(verdict)),
        title: `${verdict.device}: ${told.titleOf(verdict)}`,
        description: verdict.note === '' ? verdict.outcome : verdict.note,
        props: [
          prop('device', verdict.device === '' ? '-' : verdict.device),
          prop('benchmark', verdict.benchmark),
          prop('rule', verdict.rule),
          ...(mark?.owner ? [prop('owner', mark.owner)] : []),
        ],
        'related-observations': [{ 'observation-uuid': idOf('observation', name, findingKey(verdict)) }],
        'related-risks': [{ 'risk-uuid': idOf('risk', name, findingKey(verdict)) }],
        ...(mark && mark.comment !== '' ? { remarks: mark.comment } : {}),
      }
    }),
    ...(records.length === 0 ? {} : { 'back-matter': { resources: records } }),
  }
}

/** What a plan of action says of findings: state, due date, comment. Items that name no finding of ours are told. */
export function readPlanOfAction(plan: OscalOf<'plan-of-action-and-milestones'>): {
  readonly marks: ReadonlyMap<string, Omit<FindingMark, 'owner'>>
  readonly lost: readonly string[]
} {
  const risks = new Map((plan.risks ?? []).map((risk) => [risk.uuid, risk]))
  const marks = new Map<string, Omit<FindingMark, 'owner'>>()
  const lost: string[] = []
  for (const item of plan['poam-items']) {
    const [benchmark, rule, device] = ['benchmark', 'rule', 'device'].map((name) => propOf(item.props, name))
    const own = (item['related-risks'] ?? []).flatMap((one) => risks.get(one['risk-uuid']) ?? [])
    if (benchmark === undefined || rule === undefined || device === undefined) lost.push(`item “${item.title}”`)
    else
      marks.set(findingKey({ benchmark, rule, device: device === '-' ? '' : device }), {
        // Closed where all that it rests on is.
        done: own.length > 0 && own.every(({ status }) => status === 'closed'),
        due: own[0]?.deadline?.slice(0, 10) ?? null,
        comment: item.remarks ?? '',
      })
  }
  return { marks, lost }
}

/** The verdicts that assessment results hold, by what names them; observations of others are told. */
export function readResults(results: OscalOf<'assessment-results'>): {
  readonly outcomes: readonly Pick<Verdict, 'device' | 'benchmark' | 'rule' | 'note' | 'outcome'>[]
  readonly lost: readonly string[]
} {
  const lost: string[] = []
  const outcomes = results.results.flatMap(({ observations = [] }) =>
    observations.flatMap(({ uuid, props, description: note }) => {
      const [device, benchmark, rule, said] = ['device', 'benchmark', 'rule', 'outcome'].map((one) =>
        propOf(props, one),
      )
      const outcome = outcomeSchema.options.find((one) => one === said)
      if (device !== undefined && benchmark !== undefined && rule !== undefined && outcome !== undefined)
        return [{ device: device === '-' ? '' : device, benchmark, rule, outcome, note }]
      lost.push(`observation ${uuid}`)
      return []
    }),
  )
  return { outcomes, lost }
}
