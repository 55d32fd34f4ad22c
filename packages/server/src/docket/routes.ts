import { exportDocket, getDocket, setGuests } from '@jurybox/api/docket'
import { DOCKET_FORMULA, docketOf, type DocketItem, type Exposure, type OpenFinding } from '@jurybox/core/audit'
import { csvOf } from '@jurybox/core/syntax'
import { In } from 'typeorm'
import { Verdicts, type Audit } from '../audits/entity.ts'
import { ruleTitles } from '../audits/titles.ts'
import { Engagements } from '../engagements/entity.ts'
import { findingKey } from '@jurybox/core/exchange'
import { download } from '../http/download.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'

interface Finding extends OpenFinding {
  readonly verdict: number
  readonly outcome: 'fail' | 'unknown' | 'error'
}

async function guestsOf({ database }: Services, engagementId: number): Promise<readonly string[]> {
  const { guests } = await database.getRepository(Engagements).findOneByOrFail({ id: engagementId })
  return guests
}

/** From where each device is reached; empty where traffic cannot be asked, so that nothing is said to be hidden. */
async function exposuresOf(
  services: Services,
  snapshot: SnapshotRow,
  guests: readonly string[],
): Promise<(device: string) => Exposure> {
  const { devices } = await services.traffic.ask(snapshot, { ask: 'exposure', guests })
  return (device) => {
    const own = devices[device]
    if (!own) return 'unknown'
    if (own.outside === 'yes') return 'outside'
    if (own.outside === 'undecided' || own.guests === 'undecided') return 'undecided'
    if (own.guests === 'yes') return 'guests'
    // Without a place outside, or of guests, nobody knows who would come from there.
    return own.outside === null && own.guests === null ? 'unknown' : 'inside'
  }
}

/** What is open in the audit of a snapshot: neither passed nor waived. */
async function openFindings(
  services: Services,
  audit: Audit,
  exposure: (device: string) => Exposure,
): Promise<Finding[]> {
  const rows = await services.database
    .getRepository(Verdicts)
    .find({ where: { auditId: audit.id, outcome: In(['fail', 'unknown', 'error']) } })
  const verdicts = await services.audits.waived(audit.engagementId, await services.sealedVerdicts.open(rows))
  return verdicts.flatMap(({ device, benchmark, rule, severity, outcome, waived }, i): Finding[] =>
    waived !== undefined || !isObjection(outcome)
      ? []
      : [{ verdict: rows[i]?.id ?? 0, device, benchmark, rule, severity, outcome, exposure: exposure(device) }],
  )
}

function isObjection(outcome: string): outcome is Finding['outcome'] {
  return outcome === 'fail' || outcome === 'unknown' || outcome === 'error'
}

async function docketIn(
  services: Services,
  snapshot: SnapshotRow,
): Promise<{ audit: Audit; items: DocketItem<Finding>[] } | null> {
  const audit = await services.audits.of(snapshot.id)
  if (!audit) return null
  const exposure = await exposuresOf(services, snapshot, await guestsOf(services, snapshot.engagementId))
  return { audit, items: docketOf(await openFindings(services, audit, exposure)) }
}

const NOBODY = { owner: null, due: null, overdue: false, comment: '', done: null }

export const docketRoutes = [
  route(getDocket, async ({ services, engagementId, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const found = snapshot && (await docketIn(services, snapshot))
    const guests = await guestsOf(services, engagementId)
    if (!found) return { audit: null, formula: DOCKET_FORMULA, guests, items: [] }
    const titles = await ruleTitles(services, found.audit.choices)
    const said = await services.findings.of(engagementId)
    return {
      audit: found.audit.id,
      formula: DOCKET_FORMULA,
      guests,
      items: found.items.map(({ benchmark, rule, severity, exposure, priority, findings }) => ({
        benchmark,
        rule,
        severity,
        exposure,
        priority,
        title: titles.get(`${benchmark} ${rule}`) ?? rule,
        findings: findings.map((one) => ({
          verdict: one.verdict,
          device: one.device,
          outcome: one.outcome,
          exposure: one.exposure,
          said: said.get(findingKey(one)) ?? NOBODY,
        })),
      })),
    }
  }),
  route(exportDocket, async ({ services, engagementId, query, response }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const found = snapshot && (await docketIn(services, snapshot))
    if (!found) throw notFound('audit')
    const titles = await ruleTitles(services, found.audit.choices)
    const said = await services.findings.of(engagementId)
    const rows = found.items.flatMap(({ priority, severity, findings }, i) =>
      findings.map((one) => {
        const { owner, due } = said.get(findingKey(one)) ?? NOBODY
        return [
          i + 1,
          priority,
          titles.get(`${one.benchmark} ${one.rule}`) ?? one.rule,
          one.device,
          severity,
          one.exposure,
          one.outcome,
          owner?.name ?? '',
          due ?? '',
        ]
      }),
    )
    const head = ['no', 'priority', 'rule', 'device', 'severity', 'exposure', 'outcome', 'owner', 'due']
    download(response, `docket-${found.audit.id}.csv`, 'text/csv; charset=utf-8', csvOf(head, rows))
    return undefined
  }),
  route(setGuests, async ({ services, caller, engagementId, body: { places } }) => {
    const snapshot = await services.snapshots.latest(engagementId)
    // A place that there is not is refused where it is stated, not where the docket is read.
    if (snapshot)
      await services.estate.patiently(async () => services.traffic.ask(snapshot, { ask: 'exposure', guests: places }))
    await services.database.getRepository(Engagements).update({ id: engagementId }, { guests: places })
    await services.activity.add({ userId: caller.user.id, engagementId, action: 'guests stated', detail: { places } })
    return undefined
  }),
]
