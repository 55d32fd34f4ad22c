import type { Framework } from '@jurybox/core/benchmarks'
import { searchEstate } from '@jurybox/api/search'
import { readQuestion, tokensOf, type FOUND_KINDS } from '@jurybox/core/query'
import { ruleTitles } from '../audits/titles.ts'
import { Verdicts, type Audit } from '../audits/entity.ts'
import { likeOf } from '../db/like.ts'
import type { EstateDevice } from '../estate/service.ts'
import { placeIn } from '../estate/standing.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

/** What was found of one kind; `to` is where it is, in the interface. */
interface Part {
  readonly kind: 'rule' | 'requirement' | 'verdict' | (typeof FOUND_KINDS)[number]
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
  route(searchEstate, async ({ services, engagementId, query }) => {
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
    if (query.kind) return parts
    const audit = snapshot ? await services.audits.of(snapshot.id) : null
    return [
      ...parts,
      ...(audit ? await judged(services, audit, [...devices.values()], query, base) : []),
      ...ruled(services.benchmarks, await services.benchmarks.frameworksIn(engagementId), {
        text: query.q,
        base,
        limit: query.limit,
      }),
    ]
  }),
]

/**
 * Verdicts that hold the words, in their reason, their rule or the name of their device; findings first. As with lines,
 * a word that their device is said to be need not stand there as well, where another does.
 */
async function judged(
  services: Services,
  audit: Audit,
  devices: readonly EstateDevice[],
  { q, limit }: { readonly q: string; readonly limit: number },
  base: string,
): Promise<Part[]> {
  const { words, pattern, inside } = readQuestion(q)
  if (pattern !== null || inside.length > 0 || words.length === 0) return []
  const found = services.database
    .getRepository(Verdicts)
    .createQueryBuilder('v')
    .where('v.auditId = :audit', { audit: audit.id })
  const holds = (i: number): string => `LOWER(CONCAT_WS(' ', v.note, v.rule, v.device)) LIKE :word${i}`
  const said = devices.map((device) => ({ name: device.name, tokens: tokensOf(device) }))
  for (const [i, word] of words.entries()) {
    const called = said.filter(({ tokens }) => tokens.has(word)).map(({ name }) => name)
    found.andWhere(called.length > 0 ? `(${holds(i)} OR v.device IN (:...called${i}))` : holds(i), {
      [`word${i}`]: likeOf(word),
      [`called${i}`]: called,
    })
  }
  found.andWhere(`(${words.map((_, i) => holds(i)).join(' OR ')})`)
  const [rows, total] = await found
    .orderBy("FIELD(v.outcome, 'fail', 'error', 'unknown', 'pass', 'notchecked', 'notapplicable')")
    .addOrderBy('v.device')
    .addOrderBy('v.place')
    .limit(limit)
    .getManyAndCount()
  if (total === 0) return []
  const titles = await ruleTitles(services, audit.choices)
  const hits = rows.map(({ id, benchmark, rule, device, outcome, note }) => ({
    title: `${outcome}: ${titles.get(`${benchmark} ${rule}`) ?? rule}`,
    detail: note,
    device,
    at: null,
    to: `${base}/verdicts/${audit.id}/${id}`,
  }))
  return [{ kind: 'verdict', total, hits }]
}

/** Rules and requirements that hold the words. */
function ruled(
  { all }: Services['benchmarks'],
  frameworks: readonly Framework[],
  { text, base, limit }: { text: string; base: string; limit: number },
): Part[] {
  const { words, pattern, inside } = readQuestion(text)
  if (pattern !== null || inside.length > 0) return []
  const has = (...texts: string[]): boolean =>
    words.every((word) => texts.some((one) => one.toLowerCase().includes(word)))
  const rules = all.flatMap(({ benchmark: { source } }) =>
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
  const requirements = frameworks.flatMap((framework) =>
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
