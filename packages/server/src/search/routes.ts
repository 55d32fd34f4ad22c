import { z } from 'zod'
import { Devices } from '../db/entities.ts'
import { route } from '../http/route.ts'

const LIMIT = 8

interface Hit {
  readonly kind: 'device' | 'rule' | 'requirement' | 'line'
  readonly title: string
  readonly detail: string
  /** Where it is, in the interface. */
  readonly to: string
}

export const searchRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/search',
    access: 'read',
    summary: 'Finds devices, rules, requirements and lines of configuration (secrets are not searched)',
    query: z.object({ q: z.string().trim().min(1).max(100), snapshot: z.coerce.number().int().positive().optional() }),
    handle: async ({ services, engagementId, query }) => {
      const wanted = query.q.toLowerCase()
      const has = (text: string): boolean => text.toLowerCase().includes(wanted)
      const base = `/e/${engagementId}`
      const devices = (await services.database.getRepository(Devices).findBy({ engagementId }))
        .filter((device) => has(device.name) || has(JSON.stringify(device.facts)))
        .map((device): Hit => ({ kind: 'device', title: device.name, detail: [device.facts['site'], device.facts['role']].filter(Boolean).join(' · '), to: `${base}/estate/${device.id}` }))
      const rules = services.benchmarks.all.flatMap(({ benchmark: { source } }) =>
        source.rules.filter((rule) => has(rule.id) || has(rule.title)).map((rule): Hit => ({ kind: 'rule', title: rule.title, detail: rule.id, to: `${base}/benchmarks/${source.id}?rule=${rule.id}` })),
      )
      const requirements = services.benchmarks.frameworks.flatMap((framework) =>
        Object.entries(framework.requirements)
          .filter(([number, { title }]) => has(`${framework.title} ${number}`) || has(title) || has(`${framework.id}:${number}`))
          .map(([number, { title }]): Hit => ({ kind: 'requirement', title: `${framework.title} ${number}`, detail: title, to: `${base}/verdicts?requirement=${encodeURIComponent(`${framework.id}:${number}`)}&view=list` })),
      )
      const lines = wanted.length < 3 ? [] : await linesWith(wanted)
      return [...devices.slice(0, LIMIT), ...rules.slice(0, LIMIT), ...requirements.slice(0, LIMIT), ...lines]

      /** The masked lines are searched: what a mask hides cannot be found by trying. */
      async function linesWith(text: string): Promise<Hit[]> {
        const snapshot = query.snapshot === undefined ? await services.snapshots.latest(engagementId) : await services.snapshots.find(query.snapshot, engagementId)
        const held = snapshot ? (await services.snapshots.held(snapshot)).filter((record) => record.kind === 'config') : []
        const hits: Hit[] = []
        for (const record of held) {
          const found = await services.search.lines(record, engagementId)
          for (const [i, line] of found.entries()) {
            if (!line.toLowerCase().includes(text)) continue
            hits.push({ kind: 'line', title: line.trim(), detail: `${record.device}, line ${i + 1}`, to: `${base}/estate/${record.deviceId}?record=${record.id}&line=${i + 1}` })
            if (hits.length >= LIMIT) return hits
            break
          }
        }
        return hits
      }
    },
  }),
]
