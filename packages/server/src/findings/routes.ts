import { updateFindings, waiveFindings } from '@jurybox/api/findings'
import { downloadRemediation, listRemediation } from '@jurybox/api/remediation'
import { isFinding } from '@jurybox/core/audit'
import {
  remediationItems,
  writeChangeLogCsv,
  writeChangeLogMarkdown,
  type RemediationItem,
  type RemediationMark,
} from '@jurybox/core/report'
import { In } from 'typeorm'
import { Verdicts, type Audit } from '../audits/entity.ts'
import { Problem } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

/** @param devices ids of the devices that are asked for; all of them where left out */
async function itemsOf(
  services: Services,
  audit: Audit,
  devices?: readonly number[],
): Promise<(RemediationItem & { verdict: number })[]> {
  const rows = await services.database
    .getRepository(Verdicts)
    .find({
      where: {
        auditId: audit.id,
        outcome: In(['fail', 'unknown', 'error']),
        ...(devices ? { deviceId: In([...devices]) } : {}),
      },
      select: {
        id: true,
        device: true,
        judgementId: true,
        benchmark: true,
        rule: true,
        sealed: true,
        records: true,
        beforeRecords: true,
      },
      order: { device: 'ASC', place: 'ASC' },
    })
  const verdicts = await services.audits.cited(
    await services.snapshots.find(audit.snapshotId, audit.engagementId),
    await services.audits.waived(audit.engagementId, await services.sealedVerdicts.open(rows)),
  )
  const marks = [...(await services.findings.of(audit.engagementId))].map(
    ([key, { comment, done }]): RemediationMark => ({ key, comment, done }),
  )
  const sources = await Promise.all(
    audit.choices.map(async ({ hash }) => (await services.benchmarks.version(hash)).source),
  )
  const rules = new Map(
    sources.flatMap((source) => source.rules.map((rule) => [`${source.id} ${rule.id}`, rule] as const)),
  )
  const idOf = new Map(
    verdicts.map(({ benchmark, rule, device }, i) => [`${benchmark} ${rule} ${device}`, rows[i]?.id ?? 0]),
  )
  return remediationItems(verdicts, (benchmark, rule) => rules.get(`${benchmark} ${rule}`), marks).map((item) => ({
    ...item,
    verdict: idOf.get(`${item.benchmark} ${item.rule} ${item.device}`) ?? 0,
  }))
}

const FORMS: Readonly<
  Record<string, { readonly type: string; write(items: readonly RemediationItem[], title: string): string }>
> = {
  csv: { type: 'text/csv; charset=utf-8', write: writeChangeLogCsv },
  md: { type: 'text/markdown; charset=utf-8', write: writeChangeLogMarkdown },
}

export const findingRoutes = [
  route(listRemediation, async ({ services, engagementId, params, query }) =>
    itemsOf(services, await services.audits.find(params.audit, engagementId), query.devices),
  ),
  route(updateFindings, async ({ services, caller, engagementId, params, body: { verdicts, ...change } }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const came = await services.findings.update(audit, verdicts, change, caller.user)
    // Nobody waits for a message to be sent.
    if (change.owner) void services.alerts.assigned(audit, came)
    return came
  }),
  route(waiveFindings, async ({ services, caller, engagementId, params, body: { verdicts, ...accepted } }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const all = await services.findings.verdictsOf(audit, verdicts)
    const open = all.filter(({ outcome }) => isFinding(outcome))
    const came = await services.waivers.add(
      engagementId,
      caller.user.id,
      open.map(({ benchmark, rule, device }) => ({ benchmark, rule, device, subject: null })),
      { ...accepted, expires: new Date(accepted.expires) },
    )
    const what = new Map(open.map(({ id }, i) => [id, came[i]]))
    return { came: all.map(({ id, device, rule }) => ({ device, rule, what: what.get(id) ?? 'no-finding' })) }
  }),
  route(downloadRemediation, async ({ services, caller, engagementId, params, query, response }) => {
    const audit = await services.audits.find(params.audit, engagementId)
    const form = params.format
    const writer = Object.hasOwn(FORMS, form) ? FORMS[form] : undefined
    if (!writer)
      throw new Problem(404, `There is no remediation format "${form}" (available: ${Object.keys(FORMS).join(', ')}).`)
    const snapshot = await services.snapshots.find(audit.snapshotId, engagementId)
    const body = writer.write(await itemsOf(services, audit, query.devices), `Remediation: ${snapshot.title}`)
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'remediation plan downloaded',
      detail: { audit: audit.id, form },
    })
    download(response, `change-log-${audit.id}.${form}`, writer.type, body)
    return undefined
  }),
]
