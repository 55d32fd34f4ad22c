import { traceQuestionSchema, type ForwardingExhibit, type Trace } from '@jurybox/core'
import { z } from 'zod'
import type { SnapshotRow } from '../db/entities.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'

const asOf = z.object({ snapshot: z.coerce.number().int().positive().optional() })
const place = z.string().trim().min(1).max(200)

async function snapshotOf(services: Services, engagementId: number, id: number | undefined): Promise<SnapshotRow> {
  const snapshot = await services.snapshots.asOf(engagementId, id)
  if (!snapshot) throw notFound('snapshot')
  return snapshot
}

/** Lines by the record that people open. */
function lines(exhibits: readonly ForwardingExhibit[]) {
  return exhibits.map(({ device, record, from, to }) => ({ device, record: Number(record), from, to }))
}

function traceView({ fates, whole, paths }: Trace) {
  return { fates, whole, paths: paths.map((path) => ({ ...path, hops: path.hops.map((hop) => ({ ...hop, decisions: hop.decisions.map((decision) => ({ ...decision, exhibits: lines(decision.exhibits) })) })) })) }
}

export const trafficRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic',
    access: 'read',
    summary: 'What is expected of traffic, with the answers as of a snapshot and since when',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      const [text, links] = await Promise.all([services.traffic.file(engagementId, 'expectations'), services.traffic.file(engagementId, 'links')])
      const answered = snapshot ? await services.traffic.expectations(snapshot) : []
      return {
        text: text?.text ?? '', links: links?.text ?? '',
        expectations: answered.map(({ stated, answer, since, everHeld }) => ({
          id: stated.id, title: stated.title, from: stated.from, to: stated.to, only: stated.only ?? null, packets: stated.packets, severity: stated.severity, references: stated.references, since, everHeld,
          must: answer.must, outcome: answer.outcome, words: answer.words, missing: answer.missing,
          of: answer.packets && { count: answer.packets.count, classes: answer.packets.readable.classes, whole: answer.packets.readable.whole },
          example: answer.example && { at: answer.example.at, port: answer.example.port, packet: answer.example.packet, trace: traceView(answer.example.trace) },
          exhibits: lines(answer.exhibits),
        })),
      }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/traffic/:kind',
    access: 'write-rules',
    summary: 'States what is expected of traffic, or known links, as YAML',
    body: z.strictObject({ text: z.string().max(500_000) }),
    handle: async ({ services, caller, engagementId, params, body }) => {
      const { kind } = params
      if (kind !== 'expectations' && kind !== 'links') throw notFound('page')
      await services.traffic.state(engagementId, kind, body.text, caller.user.id)
      await services.activity.add({ userId: caller.user.id, engagementId, action: `${kind} stated`, detail: { length: body.text.length } })
      return {}
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/places',
    access: 'read',
    summary: 'Places that questions can name, and which table of each device is known from where',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const { places, points, tables } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), { ask: 'places' })
      return { places, points, tables }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/reach',
    access: 'read',
    summary: 'What becomes of every packet from one place to another',
    query: asOf.extend({ from: place, to: place, only: z.string().trim().max(2000).optional() }),
    handle: async ({ services, engagementId, query: { snapshot, from, to, only } }) => {
      const { asked, parts } = await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), { ask: 'reach', from, to, only: only || null })
      return { asked: { count: asked.count, classes: asked.readable.classes, whole: asked.readable.whole }, parts: parts.map(({ readable, ...part }) => ({ ...part, classes: readable.classes, whole: readable.whole })) }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/trace',
    access: 'read',
    summary: 'One packet on all its paths, with every decision and its lines',
    query: asOf.extend(traceQuestionSchema.shape),
    handle: async ({ services, engagementId, query: { snapshot, ...question } }) => traceView((await services.traffic.ask(await snapshotOf(services, engagementId, snapshot), { ask: 'trace', question })).trace),
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/traffic/filters',
    access: 'read',
    summary: 'What is odd about access lists, line by line',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const { findings } = await services.traffic.ask(await snapshotOf(services, engagementId, query.snapshot), { ask: 'filters' })
      return findings.map((finding) => ({ ...finding, exhibits: lines(finding.exhibits) }))
    },
  }),
]
