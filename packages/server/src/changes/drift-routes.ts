import { exportDrift, listDrift } from '@jurybox/api/drift'
import { csvOf } from '@jurybox/core/syntax'
import { download } from '../http/download.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { driftIn, type Drift } from './drift.ts'

/** Lines that a row shows. */
const SHOWN = 12

/** What nobody explained comes first. */
const weight = ({ explained, kind }: Drift): number =>
  (explained === null ? 0 : 10) + { approved: 0, saved: 1, reference: 2 }[kind]

export const driftRoutes = [
  route(listDrift, async ({ services, engagementId, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    if (!snapshot) return { rows: [], unapproved: [], unsaved: [], undecided: [] }
    const { drifts, unapproved, unsaved, undecided } = await driftIn(services, snapshot)
    return {
      unapproved: [...unapproved],
      unsaved: [...unsaved],
      undecided: [...undecided],
      rows: drifts
        .toSorted((x, y) => weight(x) - weight(y) || (x.device.name < y.device.name ? -1 : 1))
        .map(({ device, kind, baseline, lines, authors, explained }) => ({
          device: device.id,
          name: device.name,
          site: device.facts.site ?? null,
          kind,
          baseline,
          lines: lines.slice(0, SHOWN),
          count: lines.length,
          authors: [...authors],
          explained,
        })),
    }
  }),
  route(exportDrift, async ({ services, engagementId, query, response }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    if (!snapshot) throw notFound('snapshot')
    const { drifts } = await driftIn(services, snapshot)
    const rows = drifts.flatMap(({ device, kind, baseline, lines, authors, explained }) =>
      lines.map((line) => [
        device.name,
        device.facts.site ?? '',
        kind,
        baseline?.title ?? '',
        line,
        authors.map(({ by }) => by ?? '').join(', '),
        explained === null ? '' : `${explained.kind}: ${explained.title}`,
      ]),
    )
    const body = csvOf(['device', 'site', 'from', 'baseline', 'line', 'author', 'explained'], rows)
    download(response, `drift-${snapshot.id}.csv`, 'text/csv; charset=utf-8', body)
    return undefined
  }),
]
