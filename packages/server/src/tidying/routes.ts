import {
  tidyItems,
  writeChangeLogCsv,
  writeChangeLogMarkdown,
  type TidyItem,
  type TidyMark,
} from '@jurybox/core/report'
import { In } from 'typeorm'
import { z } from 'zod'
import { Tidied, Verdicts, type Audit } from '../db/entities.ts'
import { Problem } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { idIn, route } from '../http/route.ts'
import type { Services } from '../services.ts'

const ids = z.preprocess(
  (value) => (typeof value === 'string' && value !== '' ? value.split(',').map(Number) : undefined),
  z.array(z.int().positive()).max(1000).optional(),
)

/** @param devices ids of the devices that are asked for; all of them where left out */
async function itemsOf(
  services: Services,
  audit: Audit,
  devices?: readonly number[],
): Promise<(TidyItem & { verdict: number })[]> {
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
  const marks = (await services.database.getRepository(Tidied).findBy({ engagementId: audit.engagementId })).map(
    ({ benchmark, rule, device, note, doneByName, doneAt }): TidyMark => ({
      benchmark,
      rule,
      device,
      note,
      done: doneAt && { by: doneByName, at: doneAt.toISOString() },
    }),
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
  return tidyItems(verdicts, (benchmark, rule) => rules.get(`${benchmark} ${rule}`), marks).map((item) => ({
    ...item,
    verdict: idOf.get(`${item.benchmark} ${item.rule} ${item.device}`) ?? 0,
  }))
}

const FORMS: Readonly<
  Record<string, { readonly type: string; write(items: readonly TidyItem[], title: string): string }>
> = {
  csv: { type: 'text/csv; charset=utf-8', write: writeChangeLogCsv },
  md: { type: 'text/markdown; charset=utf-8', write: writeChangeLogMarkdown },
}

export const tidyingRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/audits/:audit/tidying',
    access: 'read',
    summary:
      'What devices have to change by an audit: wanted lines, lines there, commands, note, and whether it is done',
    query: z.object({ devices: ids }),
    handle: async ({ services, engagementId, params, query }) =>
      itemsOf(services, await services.audits.find(idIn(params, 'audit'), engagementId), query.devices),
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/tidying',
    access: 'tidy',
    summary: 'Marks what a device has to change as done or open, with a note',
    body: z.strictObject({
      benchmark: z.string().max(64),
      rule: z.string().max(64),
      device: z.string().max(160),
      done: z.boolean(),
      note: z.string().max(4000).default(''),
    }),
    handle: async ({ services, caller, engagementId, body: { done, ...body } }) => {
      const marks = services.database.getRepository(Tidied)
      const before = await marks.findOneBy({
        engagementId,
        benchmark: body.benchmark,
        rule: body.rule,
        device: body.device,
      })
      // The first author stays, whoever adds to the note.
      const kept =
        done && before?.doneAt
          ? { doneBy: before.doneBy, doneByName: before.doneByName, doneAt: before.doneAt }
          : {
              doneBy: done ? caller.user.id : null,
              doneByName: done ? caller.user.fullName : '',
              doneAt: done ? new Date() : null,
            }
      await marks.upsert({ engagementId, ...body, ...kept }, ['engagementId', 'benchmark', 'rule', 'device'])
      if (done !== Boolean(before?.doneAt))
        await services.activity.add({
          userId: caller.user.id,
          engagementId,
          action: done ? 'tidied' : 'tidied no longer',
          detail: { benchmark: body.benchmark, rule: body.rule, device: body.device },
        })
      return kept.doneAt ? { by: kept.doneByName, at: kept.doneAt.toISOString() } : { by: null, at: null }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/audits/:audit/change-log.:form',
    access: 'read',
    summary: 'What devices have to change, as csv or md, for the team that does it; secrets masked',
    query: z.object({ devices: ids }),
    handle: async ({ services, caller, engagementId, params, query, response }) => {
      const audit = await services.audits.find(idIn(params, 'audit'), engagementId)
      const form = params['form'] ?? ''
      const writer = Object.hasOwn(FORMS, form) ? FORMS[form] : undefined
      if (!writer)
        throw new Problem(
          404,
          `There is no form "${form}" of a change log (there are ${Object.keys(FORMS).join(', ')}).`,
        )
      const snapshot = await services.snapshots.find(audit.snapshotId, engagementId)
      const body = writer.write(await itemsOf(services, audit, query.devices), `Change log: ${snapshot.title}`)
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'change log taken',
        detail: { audit: audit.id, form },
      })
      download(response, `change-log-${audit.id}.${form}`, writer.type, body)
      return undefined
    },
  }),
]
