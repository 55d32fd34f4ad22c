import { FOUND_KINDS, readQuestion } from '@jurybox/core/query'
import { z } from 'zod'
import { placeIn } from '../estate/across-routes.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

/** What was found of one kind; `to` is where it is, in the interface. */
interface Part {
  readonly kind: 'rule' | 'requirement' | (typeof FOUND_KINDS)[number]
  readonly total: number
  readonly hits: readonly {
    readonly title: string
    readonly detail: string
    readonly device: string | null
    readonly at: { readonly record: number; readonly from: number; readonly to: number } | null
    readonly to: string
  }[]
}

export const searchRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/search',
    access: 'read',
    summary:
      'Finds devices, addresses, interfaces, users, lists, lines, rules and requirements (secrets are not searched)',
    query: z.object({
      q: z.string().trim().min(1).max(300),
      snapshot: z.coerce.number().int().positive().optional(),
      limit: z.coerce.number().int().min(1).max(500).default(6),
      kind: z.enum(FOUND_KINDS).optional(),
    }),
    handle: async ({ services, engagementId, query }) => {
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      const devices = new Map(
        (snapshot ? await services.estate.devices(snapshot) : []).map((device) => [device.name, device]),
      )
      const base = `/e/${engagementId}`
      const found = snapshot
        ? await services.estate.find(snapshot, query.q, query.limit, query.kind ? [query.kind] : null)
        : []
      const parts = found.map(({ kind, total, hits, devices: names }) => ({
        kind,
        total,
        devices: names.length,
        hits: hits.map(({ device: name, title, detail, at }) => {
          const device = devices.get(name)
          const place = placeIn(services, device, at)
          return {
            title,
            detail,
            device: name,
            at: place,
            to: `${base}/estate/${device?.id ?? 0}${place ? `?record=${place.record}&line=${place.from}` : ''}`,
          }
        }),
      }))
      return query.kind ? parts : [...parts, ...ruled(services, query.q, base, query.limit)]
    },
  }),
]

/** Rules and requirements that hold the words. */
function ruled(services: Services, text: string, base: string, limit: number): Part[] {
  const { words, pattern, inside } = readQuestion(text)
  if (pattern !== null || inside.length > 0) return []
  const has = (...texts: string[]): boolean =>
    words.every((word) => texts.some((one) => one.toLowerCase().includes(word)))
  const rules = services.benchmarks.all.flatMap(({ benchmark: { source } }) =>
    source.rules
      .filter((rule) => has(rule.id, rule.title))
      .map((rule) => ({
        title: rule.title,
        detail: rule.id,
        device: null,
        at: null,
        to: `${base}/benchmarks/${source.id}?rule=${rule.id}`,
      })),
  )
  const requirements = services.benchmarks.frameworks.flatMap((framework) =>
    Object.entries(framework.requirements)
      .filter(([number, { title }]) => has(`${framework.title} ${number}`, title, `${framework.id}:${number}`))
      .map(([number, { title }]) => ({
        title: `${framework.title} ${number}`,
        detail: title,
        device: null,
        at: null,
        to: `${base}/verdicts?requirement=${encodeURIComponent(`${framework.id}:${number}`)}&view=list`,
      })),
  )
  return (
    [
      ['rule', rules],
      ['requirement', requirements],
    ] as const
  )
    .filter(([, hits]) => hits.length > 0)
    .map(([kind, hits]) => ({ kind, total: hits.length, hits: hits.slice(0, limit) }))
}
